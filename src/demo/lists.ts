import type { SavedListInput } from '@/server/forms/types';

/** Lists that the trust's people keep. */
export const LISTS: readonly SavedListInput[] = [
  {
    name: 'To inspect before packing',
    definition: {
      ...{ kind: 'list', type: 'artefact', columns: ['loan', 'objectKind', 'fragile', 'inspectedOn'] },
      sort: 'inspectedOn',
      condition: {
        ...{ kind: 'group', operator: 'all' },
        of: [
          { kind: 'selection', operator: 'isIn', route: [], selection: 'notInspectedLately' },
          {
            ...{ kind: 'compare', operator: '=', left: { kind: 'field', route: ['loan'], field: 'stage' } },
            right: { kind: 'constant', value: 'agreed' },
          },
        ],
      },
    },
  },
  {
    name: 'Care before transport',
    definition: { kind: 'joined', selections: ['neverInspected', 'withCourier'] },
  },
];
