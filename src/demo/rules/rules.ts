import type { Expression } from '@/core/expression';
import type { RollUp } from '@/core/rules';
import type { WireValue } from '@/core/values';
import { CASCADES, COMPLETED, LATEST } from './cascades';
import { LINKS } from './links';
import { MAKERS } from './creates';
import type { DemoRule } from './demo-rule';

const fieldOf = (field: string, ...route: string[]) => ({ kind: 'field', route, field }) as const;
const is = (field: ReturnType<typeof fieldOf>, value: WireValue): Expression => ({
  kind: 'compare',
  operator: '=',
  left: field,
  right: { kind: 'constant', value },
});
const among = (operand: Expression, ...options: string[]): Expression => ({
  ...{ kind: 'among', operator: 'isAmong', operand, options },
});
const all = (...of: Expression[]): Expression => ({ kind: 'group', operator: 'all', of });
const zero = { amount: '0.00', currency: 'GBP' };

const rollUp = (
  given: Omit<RollUp, 'kind' | 'pace' | 'rounding' | 'value' | 'condition'> & Partial<RollUp>,
): RollUp => ({
  ...{ kind: 'rollUp', pace: 'withTheSave', rounding: null, value: null, condition: null },
  ...given,
});
const over = (type: string, link: string): RollUp['route'] => [{ direction: 'down', type, link }];

/** When a loan is due back, against a day so many days from the settled day. */
const day = (operator: '>=' | '<=', plus: number): Expression => ({
  ...{ kind: 'compare', operator, left: fieldOf('dueBack') },
  right: { kind: 'day', from: 'today', plus, unit: 'day' },
});

/** Inspections that were made in person and are completed. */
const inPerson: Expression = all(is(fieldOf('completed'), true), {
  ...{ kind: 'compare', operator: '=', left: fieldOf('byPhoto') },
  right: { kind: 'constant', value: false },
});

/** When something was last inspected, and by whom: of the latest of its inspections and of what lies in it. */
const lastInspected = (
  type: string,
  inspections: RollUp['route'] | null,
  within: RollUp['route'] | null,
): RollUp => {
  const own = inspections && {
    ...{ route: inspections, value: fieldOf('completedOn') },
    ...{ condition: inPerson, order: [fieldOf('completedOn')] },
  };
  const inside = within && {
    ...{ route: within, value: fieldOf('inspectedOn'), condition: null, order: [fieldOf('inspectedOn')] },
  };
  const [first, ...also] = [own, inside].filter((source) => source !== null);
  const by = [...(own ? [fieldOf('inspector')] : []), ...(inside ? [fieldOf('inspectedBy')] : [])];
  return rollUp({
    ...{ type, target: 'inspectedOn', aggregate: 'last', whenNone: null },
    ...{ ...first!, also, together: [{ target: 'inspectedBy', values: by }] },
  });
};

const INSPECTED: readonly DemoRule[] = (
  [
    ['artefact', over('inspection', 'artefact'), null],
    ['crate', over('inspection', 'crate'), over('artefact', 'crate')],
    ['shipment', null, over('crate', 'shipment')],
  ] as const
).map(([type, inspections, within]): DemoRule => ({
  definition: lastInspected(type, inspections, within),
  note: 'Priya Ramanathan: “When was this last inspected, and by whom? In person, not from a photograph. On the thing itself and on what it lies in.”',
  state: 'live',
}));

/** The demo's rules, each with what a colleague asked for. They are taken live in this order. */
export const RULES: readonly DemoRule[] = [
  {
    definition: rollUp({
      type: 'loan',
      target: 'artefactCount',
      aggregate: 'count',
      route: over('artefact', 'loan'),
      whenNone: '0',
    }),
    note: 'Elsie Hartnoll: “Show me on each loan how many pieces are in it.”',
    state: 'live',
  },
  {
    definition: rollUp({
      type: 'exhibition',
      target: 'artefactCount',
      aggregate: 'sum',
      route: over('loan', 'exhibition'),
      value: fieldOf('artefactCount'),
      whenNone: '0',
    }),
    note: 'Maren Oduya: “And on each exhibition over all of its loans.”',
    state: 'live',
  },
  {
    definition: rollUp({
      type: 'loan',
      target: 'agreedTotal',
      aggregate: 'sum',
      route: over('artefact', 'loan'),
      value: fieldOf('agreedValue'),
      whenNone: zero,
    }),
    note: 'Priya Ramanathan: “I compare it with what the lender wants insured.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{
        type: 'institution',
        target: 'lentTotal',
        aggregate: 'sum',
        route: over('loan', 'lender'),
        value: { kind: 'feel', text: 'exchange(insuredValue, "GBP", today())' },
        also: [{ route: over('institution', 'partOf'), value: fieldOf('lentTotal'), condition: null }],
        whenNone: zero,
      },
      condition: all(is(fieldOf('stage'), 'agreed'), {
        kind: 'among',
        operator: 'isNotAmong',
        operand: fieldOf('stage', 'exhibition'),
        options: ['closed'],
      }),
    }),
    note: 'Jonas Achterberg: “What each lender has entrusted to us right now, with all its departments. Exhibitions that have closed don’t count.”',
    state: 'live',
  },
  {
    definition: rollUp({
      type: 'crate',
      target: 'anyFragile',
      aggregate: 'any',
      route: over('artefact', 'crate'),
      value: fieldOf('fragile'),
      whenNone: false,
    }),
    note: 'Priya Ramanathan: “The carrier must see on the crate that something in it is fragile.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{ type: 'crate', target: 'cover', aggregate: 'sum', whenNone: zero },
      ...{ route: over('artefact', 'crate'), value: fieldOf('agreedValue') },
      also: [{ route: over('crate', 'inside'), value: fieldOf('cover'), condition: null }],
      own: { adds: fieldOf('ownCover'), standsIn: fieldOf('declaredCover') },
    }),
    note: 'Jonas Achterberg: “What each crate is insured for, with all that is in it. Where the carrier declares a sum, that counts.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{ type: 'crate', target: 'allSealed', aggregate: 'all', whenNone: false },
      ...{ route: over('artefact', 'crate'), value: fieldOf('packed') },
      also: [{ route: over('crate', 'inside'), value: fieldOf('allSealed'), condition: null }],
      own: { adds: fieldOf('sealed') },
    }),
    note: 'Priya Ramanathan: “When any part isn’t sealed, nor is the whole.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{ type: 'shipment', target: 'cover', aggregate: 'sum', whenNone: zero },
      ...{ route: over('crate', 'shipment'), value: fieldOf('cover') },
      condition: { kind: 'presence', operator: 'isEmpty', operand: fieldOf('inside') },
    }),
    note: 'Jonas Achterberg: “Only the outermost crates: what lies in them is in their cover already.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{ type: 'artefact', target: 'needsPermit', aggregate: 'any', whenNone: false },
      route: [...over('materialUse', 'artefact'), { direction: 'up', link: 'material' }],
      value: fieldOf('protected', 'material'),
    }),
    note: 'Elsie Hartnoll: “If one of its materials is protected, I have to apply for papers. And if it no longer is, I don’t.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{ type: 'artefact', target: 'handlingGrade', aggregate: 'average', whenNone: null },
      ...{ route: over('handlingReport', 'artefact'), value: fieldOf('grade') },
    }),
    note: 'Priya Ramanathan: “The average of the handling reports, as a grade; halves go up.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{ type: 'artefact', target: 'handling', aggregate: 'average', whenNone: null },
      ...{ route: over('handlingReport', 'artefact'), value: fieldOf('grade') },
      map: {
        rows: [
          { operator: '>=', than: '4', writes: 'withCare' },
          { operator: '>=', than: '2.5', writes: 'byTwo' },
        ],
        otherwise: { kind: 'writes', value: 'asUsual' },
      },
    }),
    note: 'Priya Ramanathan: “Not a number: the porters want to read what to do.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{ type: 'exhibition', target: 'stage', aggregate: 'all', whenNone: null },
      ...{
        route: over('loan', 'exhibition'),
        value: { kind: 'feel', text: 'stage in ("agreed", "declined")' },
      },
      map: {
        rows: [
          { operator: '=', than: true, writes: 'confirmed' },
          { operator: '=', than: false, writes: 'proposed' },
        ],
        otherwise: { kind: 'asItIs' },
      },
      appliesWhen: among(fieldOf('stage'), 'proposed', 'confirmed'),
    }),
    note: 'Maren Oduya: “When every loan is agreed or declined, the exhibition is confirmed; when one goes back to requested, it is proposed again. Once I have set it to installing or later, leave it alone.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{ type: 'exhibition', target: 'artefactsToPermit', aggregate: 'count', whenNone: '0' },
      route: [...over('loan', 'exhibition'), ...over('artefact', 'loan')],
      condition: is(fieldOf('needsPermit'), true),
    }),
    note: 'Farid Benhaddou: “How many pieces of the exhibition need papers? I don’t want to open every loan.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{ type: 'exhibition', target: 'dueSoon', aggregate: 'count', whenNone: '0' },
      route: over('loan', 'exhibition'),
      condition: all(is(fieldOf('stage'), 'agreed'), day('>=', 0), day('<=', 45)),
    }),
    note: 'Callum Reyes: “How many loans have to be home within 45 days? Nobody edits anything for that to change.”',
    state: 'live',
  },
  ...INSPECTED,
  {
    definition: rollUp({
      ...{ type: 'exhibition', target: 'lenders', aggregate: 'joined', whenNone: null },
      ...{ route: over('loan', 'exhibition'), value: fieldOf('name', 'lender') },
      condition: is(fieldOf('stage'), 'agreed'),
      joining: { separator: ', ', isDistinct: true, most: 6 },
    }),
    note: 'Tobias Lindqvist: “Whom do we thank on the labels? Each lender once.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{ type: 'fitting', target: 'totalCost', aggregate: 'sum', whenNone: zero },
      route: [...over('fittingPart', 'whole'), { direction: 'up', link: 'part' }],
      value: { kind: 'feel', text: 'pieces * part.totalCost' },
      isEveryWay: true,
      own: { adds: fieldOf('ownLabour'), whenNone: fieldOf('unitCost') },
    }),
    note: 'Callum Reyes: “What a wall costs, down to the last bar. A part may be in several fittings.”',
    state: 'live',
  },
  {
    definition: {
      ...{ kind: 'formula', type: 'loan', target: 'climateLevy', rounding: null, pace: 'withTheSave' },
      value: {
        kind: 'feel',
        text: 'if exhibition.venue.galleryVolume != null then exhibition.venue.galleryVolume * amount(0.35, "GBP/m³") else null',
      },
      ...{ appliesWhen: null, otherwise: null },
    },
    note: 'Jonas Achterberg: “Lenders want to see what the venue’s climate costs them.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{ type: 'exhibition', target: 'makers', aggregate: 'joined', whenNone: null },
      ...{ route: [...over('loan', 'exhibition'), ...over('artefact', 'loan')], value: fieldOf('maker') },
      joining: { separator: ', ', isDistinct: true, most: 8 },
      pace: 'soonAfter',
    }),
    note: 'Tobias Lindqvist: “All makers for the index. It needn’t be there the moment I save a piece, only soon.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{ type: 'institution', target: 'piecesLent', aggregate: 'count', whenNone: '0' },
      route: [...over('loan', 'lender'), ...over('artefact', 'loan')],
      pace: { kind: 'timetable', every: 'week', at: '06:00', weekday: 1 },
    }),
    note: 'Jonas Achterberg: “How many pieces each lender has with us, for Monday’s meeting. The whole week the same figure, please.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{ type: 'exhibition', target: 'quotedFees', aggregate: 'sum', whenNone: zero },
      ...{ route: over('loan', 'exhibition'), value: fieldOf('fee') },
      limits: { least: '500' },
      pace: { kind: 'onRequest', field: 'quote' },
    }),
    note: 'Callum Reyes: “What the loans cost, as I quoted it, and never under 500. It must not move under me; I say when.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{ type: 'shipment', target: 'stage', aggregate: 'all', whenNone: null },
      ...{ route: over('crate', 'shipment'), value: fieldOf('delivered') },
      map: { rows: [{ operator: '=', than: true, writes: 'delivered' }], otherwise: { kind: 'asItIs' } },
    }),
    note: 'Farid Benhaddou: “When every crate of it is delivered, so is the shipment. With one crate left it isn’t.”',
    state: 'live',
  },
  ...CASCADES,
  ...MAKERS,
  ...LINKS,
  {
    definition: rollUp({
      type: 'exhibition',
      target: 'lastDueBack',
      aggregate: 'maximum',
      route: over('loan', 'exhibition'),
      value: fieldOf('dueBack'),
      condition: is(fieldOf('stage'), 'agreed'),
      whenNone: null,
    }),
    note: 'Farid Benhaddou: “When does the last loan have to be home?”',
    state: 'draft',
  },
  {
    definition: rollUp({
      type: 'exhibition',
      target: 'averageFee',
      aggregate: 'average',
      route: over('loan', 'exhibition'),
      value: fieldOf('fee'),
      whenNone: null,
    }),
    note: 'Callum Reyes: “Roughly what do lenders charge us?” Paused until the fees of the last year are entered.',
    state: 'paused',
  },
  COMPLETED,
  LATEST,
];
