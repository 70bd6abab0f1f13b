import type { Row } from '@/core/engine';
import { type LinkPolicy, type Model, type ModelDefinition, readModel, type RecordType } from '@/core/model';
import type { Expression } from '@/core/expression';
import type { RollUp, Rule, RuleDefinition } from '@/core/rules';
import { Decimal, type Value } from '@/core/values';

/** A UUID with the given hexadecimal digits at its end. */
export const uuid = (end: string): string => `00000000-0000-7000-8000-${end.padStart(12, '0')}`;

const STAGES = ['requested', 'agreed', 'declined', 'returned'].map((key) => ({
  key,
  name: key[0]!.toUpperCase() + key.slice(1),
}));

const title = { key: 'title', name: 'Title', type: { kind: 'text' }, required: true } as const;
const link = (key: string, name: string, target: string, otherEnd: string, policy: LinkPolicy = 'refuse') =>
  ({ key, name, otherEnd, type: { kind: 'link', target }, whenParentGoes: policy }) as const;
const money = (key: string, name: string) =>
  ({ key, name, type: { kind: 'money', currency: 'GBP' } }) as const;
const number = (key: string, name: string, scale = 0) =>
  ({ key, name, type: { kind: 'number', scale } }) as const;

/** A small model for tests: institutions within institutions, exhibitions at a venue, loans by a lender, artefacts. */
export const GALLERIES: ModelDefinition = {
  types: [
    {
      ...{ key: 'institution', name: 'Institution', plural: 'Institutions', title: 'title' },
      fields: [
        title,
        link('partOf', 'Part of', 'institution', 'Parts'),
        money('lentTotal', 'Lent total'),
        number('partCount', 'Part count'),
      ],
    },
    {
      ...{ key: 'exhibition', name: 'Exhibition', plural: 'Exhibitions', title: 'title' },
      fields: [
        title,
        link('venue', 'Venue', 'institution', 'Exhibitions', 'clear'),
        { key: 'open', name: 'Open', type: { kind: 'yesNo' } },
        money('insuredTotal', 'Insured total'),
        money('averageInsured', 'Average insured'),
        number('artefactCount', 'Artefact count'),
        { key: 'lastDue', name: 'Last due back', type: { kind: 'date' } },
        { key: 'grade', name: 'Grade', type: { kind: 'rating', lowest: 1, highest: 6 } },
      ],
    },
    {
      ...{ key: 'loan', name: 'Loan', plural: 'Loans', title: 'title' },
      fields: [
        title,
        link('exhibition', 'Exhibition', 'exhibition', 'Loans'),
        link('lender', 'Lender', 'institution', 'Loans out'),
        { key: 'stage', name: 'Stage', type: { kind: 'choice', options: STAGES } },
        money('insuredValue', 'Insured value'),
        { key: 'dueBack', name: 'Due back', type: { kind: 'date' } },
        number('artefactCount', 'Artefact count'),
        number('weight', 'Weight', 3),
      ],
    },
    {
      ...{ key: 'artefact', name: 'Artefact', plural: 'Artefacts', title: 'title' },
      fields: [
        title,
        link('loan', 'Loan', 'loan', 'Artefacts', 'delete'),
        { key: 'fragile', name: 'Fragile', type: { kind: 'yesNo' } },
        number('weight', 'Weight', 3),
      ],
    },
  ],
};

export const galleries = (): Model => readModel(GALLERIES);

export const fieldOf = (field: string, ...route: string[]) => ({ kind: 'field', route, field }) as const;

export const stageIs = (stage: string): Expression => ({
  kind: 'compare',
  operator: '=',
  left: fieldOf('stage'),
  right: { kind: 'constant', value: stage },
});

export const rollUp = (
  given: Partial<RollUp> & Pick<RollUp, 'type' | 'target' | 'aggregate' | 'route'>,
): RollUp => ({
  ...{ kind: 'rollUp', value: null, condition: null, whenNone: null, rounding: null, pace: 'withTheSave' },
  ...given,
});

const over = (type: string, through: string): RollUp['route'] => [{ direction: 'down', type, link: through }];

export const INSURED_TOTAL = rollUp({
  ...{ type: 'exhibition', target: 'insuredTotal', aggregate: 'sum', route: over('loan', 'exhibition') },
  ...{
    value: fieldOf('insuredValue'),
    condition: stageIs('agreed'),
    whenNone: { amount: '0', currency: 'GBP' },
  },
});
export const LOAN_ARTEFACTS = rollUp({
  type: 'loan',
  target: 'artefactCount',
  aggregate: 'count',
  route: over('artefact', 'loan'),
  whenNone: '0',
});
export const EXHIBITION_ARTEFACTS = rollUp({
  ...{ type: 'exhibition', target: 'artefactCount', aggregate: 'sum', route: over('loan', 'exhibition') },
  ...{ value: fieldOf('artefactCount'), whenNone: '0' },
});
/** Reads up a route: loans count for their lender while their exhibition is open. */
export const LENT_TOTAL = rollUp({
  ...{
    type: 'institution',
    target: 'lentTotal',
    aggregate: 'sum',
    route: over('loan', 'lender'),
    value: fieldOf('insuredValue'),
  },
  condition: {
    kind: 'compare',
    operator: '=',
    left: fieldOf('open', 'exhibition'),
    right: { kind: 'constant', value: true },
  },
});
export const AVERAGE_INSURED = rollUp({
  ...{
    type: 'exhibition',
    target: 'averageInsured',
    aggregate: 'average',
    route: over('loan', 'exhibition'),
    value: fieldOf('insuredValue'),
  },
});
export const LAST_DUE = rollUp({
  ...{
    type: 'exhibition',
    target: 'lastDue',
    aggregate: 'maximum',
    route: over('loan', 'exhibition'),
    value: fieldOf('dueBack'),
  },
});
export const PART_COUNT = rollUp({
  type: 'institution',
  target: 'partCount',
  aggregate: 'count',
  route: over('institution', 'partOf'),
  whenNone: '0',
});
/** Goes out of range when the sum of artefact counts isn't from 1 to 6: the way to an error. */
export const GRADE = rollUp({
  ...{
    type: 'exhibition',
    target: 'grade',
    aggregate: 'sum',
    route: over('loan', 'exhibition'),
    value: fieldOf('artefactCount'),
  },
});

/** A rule for tests; its id is a UUID made from its number, so that stores can keep it. */
export const ruleOf = <D extends RuleDefinition>(
  definition: D,
  number: number,
  name = `Rule ${number}`,
): Rule<D> => ({
  ...{ id: uuid(`a${number}`), version: uuid(`b${number}`), name, definition },
});

export const ALL_RULES: readonly Rule[] = [
  ...[
    INSURED_TOTAL,
    LOAN_ARTEFACTS,
    EXHIBITION_ARTEFACTS,
    LENT_TOTAL,
    AVERAGE_INSURED,
    LAST_DUE,
    PART_COUNT,
    GRADE,
  ],
].map((definition, index) => ruleOf(definition, index + 1));

export const gbp = (amount: string | number): Value => ({ amount: new Decimal(amount), currency: 'GBP' });
export const decimal = (digits: string | number): Value => new Decimal(digits);

/** A row with the given values and all other fields empty. */
export function rowOf(model: Model, type: string, id: string, values: Record<string, Value>): Row {
  const empty = Object.fromEntries(model.type(type)!.fields.map((field) => [field.key, null]));
  return {
    type,
    id,
    version: 1,
    deleted: false,
    errors: {},
    values: { ...empty, title: `${type} ${id.slice(-3)}`, ...values },
  };
}

/** A type of rates of currencies: so many of the second of a pair for one of the first. */
export const RATES: RecordType = {
  ...{ key: 'rate', name: 'Rate', plural: 'Rates', title: 'title' },
  fields: [
    { key: 'title', name: 'Title', type: { kind: 'text' }, required: true },
    { key: 'pair', name: 'Pair', type: { kind: 'text' } },
    { key: 'day', name: 'Day', type: { kind: 'date' } },
    { key: 'rate', name: 'Rate', type: { kind: 'number', scale: 4 } },
  ],
  rates: { pair: 'pair', day: 'day', rate: 'rate' },
};
