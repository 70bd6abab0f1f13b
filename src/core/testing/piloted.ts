import { type ModelDefinition, readModel } from '@/core/model';
import type { Pilot } from '@/core/rules';
import { fieldOf, GALLERIES, gbp, rowOf, uuid } from './galleries';
import type { RuleDesk } from './rule-desk';

/** Galleries with a selection of their exhibitions: those that are open. */
export const PILOTED: ModelDefinition = {
  ...GALLERIES,
  selections: [
    {
      ...{ key: 'open', name: 'Open now', type: 'exhibition' },
      condition: {
        ...{ kind: 'compare', operator: '=', left: fieldOf('open') },
        right: { kind: 'constant', value: true },
      },
    },
  ],
};

export const model = readModel(PILOTED);
export const [silk, salt, robes, pots] = [uuid('11'), uuid('12'), uuid('21'), uuid('22')];

/** Two exhibitions, of which the first is open, with an agreed loan each. */
export const ROWS = [
  rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', open: true }),
  rowOf(model, 'exhibition', salt, { title: 'Salt Roads' }),
  rowOf(model, 'loan', robes, { title: 'Robes', exhibition: silk, stage: 'agreed', insuredValue: gbp(100) }),
  rowOf(model, 'loan', pots, { title: 'Pots', exhibition: salt, stage: 'agreed', insuredValue: gbp(7) }),
];

export const SILK: Pilot = { kind: 'records', ids: [silk] };
export const OPEN: Pilot = { kind: 'selection', selection: 'open' };

/** The insured total of an exhibition in digits; `null` where it is empty. */
export const amount = (desk: RuleDesk, id: string) =>
  (desk.at('exhibition', id, 'insuredTotal') as { amount: { toFixed(): string } } | null)?.amount.toFixed() ??
  null;
