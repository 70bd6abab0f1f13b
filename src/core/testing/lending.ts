import { type Field, type Model, readModel, type RecordType } from '@/core/model';
import type { LinkRule } from '@/core/rules';

const text = (key: string, name: string): Field => ({ key, name, type: { kind: 'text' } });
const link = (key: string, name: string, target: string): Field => ({
  ...{ key, name, type: { kind: 'link', target }, otherEnd: `${name} of`, whenParentGoes: 'clear' },
});
const typeOf = (key: string, plural: string, fields: readonly Field[]): RecordType => ({
  ...{ key, name: key[0]!.toUpperCase() + key.slice(1), plural, title: 'title' },
  fields: [{ key: 'title', name: 'Title', type: { kind: 'text' }, required: true }, ...fields],
});

/** Lenders in a hierarchy with their loans, and artefacts that say in which crate they lie. */
export const lending = (): Model =>
  readModel({
    types: [
      typeOf('lender', 'Lenders', [
        link('partOf', 'Part of', 'lender'),
        { key: 'loans', name: 'Loan count', type: { kind: 'number', scale: 0 } },
      ]),
      typeOf('loan', 'Loans', [
        link('lender', 'Lender', 'lender'),
        link('top', 'Top lender', 'lender'),
        { key: 'isClosed', name: 'Closed', type: { kind: 'yesNo' } },
      ]),
      typeOf('crate', 'Crates', [
        text('label', 'Label'),
        { key: 'sealed', name: 'Sealed', type: { kind: 'yesNo' } },
        { key: 'day', name: 'Day', type: { kind: 'date' } },
        { key: 'pieces', name: 'Pieces', type: { kind: 'number', scale: 0 } },
      ]),
      typeOf('artefact', 'Artefacts', [text('crateLabel', 'Crate label'), link('crate', 'Crate', 'crate')]),
    ],
  });

/** The same, where each lender can name the topmost above it. */
export const lendingWithRoots = (): Model =>
  readModel({
    types: lending().types.map((type) =>
      type.key === 'lender' ? { ...type, fields: [...type.fields, link('root', 'Root', 'lender')] } : type,
    ),
  });

const kept = (key: string, name: string, target: string): Field => ({
  ...link(key, name, target),
  whenParentGoes: 'refuse',
});

/** The same, where a loan must name its topmost lender, and an artefact lies in a crate or with a loan: in one of them at most, or in one. */
export const lendingHeld = (required = false): Model =>
  readModel({
    types: lending().types.map((type): RecordType => {
      if (type.key === 'loan')
        return {
          ...type,
          fields: type.fields.map((field) =>
            field.key === 'top' ? { ...kept('top', 'Top lender', 'lender'), required: true } : field,
          ),
        };
      if (type.key !== 'artefact') return type;
      return {
        ...type,
        fields: [
          ...type.fields.filter(({ key }) => key !== 'crate'),
          ...[kept('crate', 'Crate', 'crate'), kept('loan', 'Loan', 'loan')],
        ],
        openLinks: [{ key: 'place', name: 'Place', links: ['crate', 'loan'], required }],
      };
    }),
  });

export const own = (field: string, ...route: string[]) => ({ kind: 'field', route, field }) as const;

/** The topmost lender of a loan, at any depth; itself where nothing is above it. */
export const TOP: LinkRule = {
  ...{ kind: 'link', type: 'loan', target: 'top', appliesWhen: null, holds: 'always', none: 'clear' },
  find: { kind: 'route', route: ['lender'], topmost: 'partOf', whenNoneAbove: 'itself' },
  pace: 'withTheSave',
};

/** The same where it must be named: what stands there is left where none is found. */
export const TOP_HELD: LinkRule = { ...TOP, none: 'leave' };

/** The first crate with its label, kept. */
export const CRATE_KEPT: LinkRule = {
  ...{ kind: 'link', type: 'artefact', target: 'crate', appliesWhen: null, holds: 'always', none: 'leave' },
  find: {
    ...{ kind: 'match', keys: [{ field: 'label', value: own('crateLabel') }], ignoresCase: true },
    ...{ condition: null, several: 'first', order: { field: null, isLast: false } },
  },
  pace: 'withTheSave',
};

/** The topmost lender of a lender; none where nothing is above it. */
export const ROOT: LinkRule = {
  ...{ kind: 'link', type: 'lender', target: 'root', appliesWhen: null, holds: 'always', none: 'clear' },
  find: { kind: 'route', route: ['partOf'], topmost: 'partOf', whenNoneAbove: 'itself' },
  pace: 'withTheSave',
};

/** The crate by its label, whatever the case; a person is asked which of several. */
export const CRATE: LinkRule = {
  ...{
    kind: 'link',
    type: 'artefact',
    target: 'crate',
    appliesWhen: null,
    holds: 'whereEmpty',
    none: 'leave',
  },
  find: {
    ...{ kind: 'match', keys: [{ field: 'label', value: own('crateLabel') }], ignoresCase: true },
    ...{ condition: null, several: 'ask', order: null },
  },
  pace: 'withTheSave',
};
