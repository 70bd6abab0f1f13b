import type { Expression } from '@/core/expression';
import { type Field, type Model, readModel, type RecordType } from '@/core/model';
import type { Create } from '@/core/rules';

const text = (key: string, name: string): Field => ({ key, name, type: { kind: 'text' } });
const link = (key: string, name: string, target: string, more: Partial<Field> = {}): Field => ({
  ...{ key, name, type: { kind: 'link', target }, otherEnd: `${name} of` },
  ...more,
});
const choice = (key: string, name: string, options: readonly string[]): Field => ({
  ...{ key, name },
  type: {
    kind: 'choice',
    options: options.map((of) => ({ key: of, name: of[0]!.toUpperCase() + of.slice(1) })),
  },
});
const typeOf = (key: string, plural: string, fields: readonly Field[]): RecordType => ({
  ...{ key, name: key[0]!.toUpperCase() + key.slice(1), plural, title: 'title' },
  fields: [{ key: 'title', name: 'Title', type: { kind: 'text' }, required: true }, ...fields],
});

/** Artefacts that are inspected, treated and insured: records that are made for others. */
export const inspections = (): Model =>
  readModel({
    types: [
      typeOf('artefact', 'Artefacts', [
        choice('sort', 'Sort', ['painting', 'textile', 'tool', 'paper']),
        text('maker', 'Maker'),
        { key: 'worth', name: 'Worth', type: { kind: 'number', scale: 0 } },
        { key: 'number', name: 'Number', type: { kind: 'serial', prefix: 'N-', digits: 3 } },
        link('line', 'Insurance line', 'line'),
        text('lineNumber', 'Line number'),
        { key: 'treatments', name: 'Treatment count', type: { kind: 'number', scale: 0 } },
      ]),
      typeOf('inspection', 'Inspections', [
        link('artefact', 'Artefact', 'artefact', { whenParentGoes: 'delete' }),
        choice('outcome', 'Outcome', ['sound', 'watch', 'damage']),
        { key: 'byPhoto', name: 'By photo only', type: { kind: 'yesNo' } },
        text('remark', 'Remark'),
        { key: 'day', name: 'Day', type: { kind: 'date' } },
      ]),
      typeOf('treatment', 'Treatments', [
        link('artefact', 'Artefact', 'artefact', { whenParentGoes: 'delete' }),
        link('inspection', 'Inspection', 'inspection', { whenParentGoes: 'clear' }),
        text('cause', 'Cause'),
        { ...choice('state', 'State', ['planned', 'done', 'dropped']), default: 'planned' },
        { key: 'number', name: 'Number', type: { kind: 'serial', prefix: 'N-', digits: 3 } },
      ]),
      typeOf('line', 'Insurance lines', [
        link('artefact', 'Artefact', 'artefact', { whenParentGoes: 'refuse' }),
        text('maker', 'Maker'),
        { key: 'worth', name: 'Worth', type: { kind: 'number', scale: 0 } },
        { key: 'number', name: 'Number', type: { kind: 'serial', prefix: 'N-', digits: 3 } },
        text('artefactNumber', 'Artefact number'),
        { ...text('policy', 'Policy'), unique: true },
      ]),
    ],
  });

const own = (field: string): Expression => ({ kind: 'field', route: [], field });
const is = (field: string, value: string | boolean, operator: '=' | '!=' = '='): Expression => ({
  ...{ kind: 'compare', operator, left: own(field) },
  right: { kind: 'constant', value },
});
export const takes = (target: string, field: string, ...route: string[]): Create['assignments'][number] => ({
  target,
  value: { kind: 'expression', expression: { kind: 'field', route, field } },
});

/** An inspection in person that found damage makes a treatment. */
export const TREATMENT: Create = {
  ...{ kind: 'create', type: 'inspection', makes: 'treatment', pace: 'withTheSave', each: 'once' },
  condition: { kind: 'group', operator: 'all', of: [is('outcome', 'damage'), is('byPhoto', true, '!=')] },
  ...{ back: 'inspection', forward: null, making: 'directly', following: 'not', returning: 'not' },
  assignments: [
    { target: 'title', value: { kind: 'text', text: 'Treat {artefact.title}' } },
    takes('artefact', 'artefact'),
    takes('cause', 'remark'),
  ],
  afterwards: 'left',
};

/** A painting or textile gets an insurance line, kept in step both ways; by its sort at once, as a proposal, or both. */
export const LINE: Create = {
  ...{ kind: 'create', type: 'artefact', makes: 'line', pace: 'withTheSave', each: 'once' },
  condition: {
    kind: 'among',
    operator: 'isAmong',
    operand: own('sort'),
    options: ['painting', 'textile', 'paper'],
  },
  ...{
    back: 'artefact',
    forward: 'line',
    following: 'directly',
    returning: 'directly',
    afterwards: 'removed',
  },
  making: {
    field: 'sort',
    rows: [
      { from: 'textile', way: 'proposal' },
      { from: 'paper', way: 'both' },
    ],
    otherwise: 'directly',
  },
  assignments: [
    takes('title', 'title'),
    takes('maker', 'maker'),
    takes('worth', 'worth'),
    { target: 'artefactNumber', value: { kind: 'text', text: '{number}' } },
  ],
  gives: [{ target: 'lineNumber', value: { kind: 'text', text: '{number}' } }],
};
