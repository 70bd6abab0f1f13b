import type { Expression } from '@/core/expression';
import { type Field, type Model, readModel, type RecordType } from '@/core/model';
import type { Assignment, Cascade, Create, Formula } from '@/core/rules';
import { cascade, down, when } from './touring';

const field = (key: string, name: string, type: Field['type']): Field => ({ key, name, type });
const underFile: Field = {
  ...field('file', 'File', { kind: 'link', target: 'file' }),
  ...{ otherEnd: 'Papers', whenParentGoes: 'clear' },
};
const typeOf = (key: string, plural: string, fields: readonly Field[]): RecordType => ({
  ...{ key, name: key[0]!.toUpperCase() + key.slice(1), plural, title: 'title' },
  fields: [{ ...field('title', 'Title', { kind: 'text' }), required: true }, ...fields],
});

/** Files with papers under them, which are closed and signed by somebody at some time, and reminders of those that are overdue. */
export const signing = (settledDay: string | null = '2027-03-31'): Model =>
  readModel(
    {
      types: [
        typeOf('file', 'Files', [
          field('state', 'State', {
            kind: 'choice',
            options: ['open', 'closed'].map((key) => ({ key, name: key[0]!.toUpperCase() + key.slice(1) })),
          }),
          field('owner', 'Owner', { kind: 'person' }),
          field('closedBy', 'Closed by', { kind: 'person' }),
          field('closedAt', 'Closed at', { kind: 'dateTime' }),
          field('due', 'Due', { kind: 'date' }),
          field('late', 'Late', { kind: 'yesNo' }),
          field('size', 'Size', { kind: 'number', scale: 0 }),
          field('seenLate', 'Seen late', { kind: 'dateTime' }),
        ]),
        typeOf('paper', 'Papers', [
          underFile,
          field('signedBy', 'Signed by', { kind: 'person' }),
          field('signedAt', 'Signed at', { kind: 'dateTime' }),
        ]),
        typeOf('reminder', 'Reminders', [
          { ...underFile, otherEnd: 'Reminders' },
          field('madeBy', 'Made by', { kind: 'person' }),
          field('madeAt', 'Made at', { kind: 'dateTime' }),
        ]),
      ],
    },
    settledDay,
  );

const takes = (target: string, text: string): Assignment => ({
  target,
  value: { kind: 'expression', expression: { kind: 'feel', text } },
});
const CLOSING = { kind: 'became', field: 'state', value: 'closed' } as const;

/** Whoever closes a file stands on it, with the moment. */
export const CLOSED: Cascade = cascade({
  ...{ type: 'file', route: [], moment: when(CLOSING) },
  assignments: [takes('closedBy', 'person()'), takes('closedAt', 'now()')],
});

/** All its papers are signed, but where its owner closes it. */
export const SIGNED: Cascade = cascade({
  ...{ type: 'file', route: [down('paper', 'file')] },
  moment: { kind: 'onChange', tests: [CLOSING], where: { kind: 'feel', text: 'not(owner = person())' } },
  assignments: [takes('signedBy', 'person()'), takes('signedAt', 'now()')],
});

/** Whoever puts a paper into a file has signed it. */
export const PUT_IN: Cascade = cascade({
  ...{ type: 'file', route: [down('paper', 'file')], moment: 'atCreation' },
  assignments: [takes('signedBy', 'if state = "open" then person() else owner')],
});

/** Past its day a file is late. */
export const LATE: Formula = {
  ...{ kind: 'formula', type: 'file', target: 'late', appliesWhen: null, otherwise: null, rounding: null },
  ...{ value: { kind: 'feel', text: 'due < today()' }, pace: 'withTheSave' },
};

/** When a file comes to be late that is noted. */
export const SEEN_LATE: Cascade = cascade({
  ...{ type: 'file', route: [], moment: when({ kind: 'became', field: 'late', value: true }) },
  assignments: [takes('seenLate', 'now()')],
});

const overdue: Expression = { kind: 'feel', text: 'due < today()' };

/** An overdue file has a reminder, until it is due later. */
export const REMINDER: Create = {
  ...{ kind: 'create', type: 'file', makes: 'reminder', condition: overdue, pace: 'withTheSave' },
  ...{ each: 'once', back: 'file', forward: null, making: 'directly', following: 'not', returning: 'not' },
  assignments: [
    { target: 'title', value: { kind: 'text', text: 'Look at {title}' } },
    takes('madeBy', 'person()'),
    takes('madeAt', 'now()'),
  ],
  afterwards: 'removed',
};
