import { Screen } from '@/ui/testing/screen';
import type { ReactElement } from 'react';
import type { Field, OptionList, RecordType } from '@/core/model';
import { choose } from '@/ui/testing/native-select';
import { fireEvent, render, screen } from '@testing-library/react';
import { useState } from 'react';
import type * as NativeSelects from '@/ui/testing/native-select';
import { FieldForm } from './field-form';
import type { FieldDraft } from './option-rows';

jest.mock('antd', () =>
  jest.requireActual<typeof NativeSelects>('@/ui/testing/native-select').withNativeSelect(),
);

const title: Field = { key: 'title', name: 'Title', type: { kind: 'text' } };
const TYPES: readonly RecordType[] = ['Loan', 'Gallery'].map((name) => ({
  ...{ key: name.toLowerCase(), name, plural: `${name}s`, title: 'title', fields: [title] },
}));
const LISTS: readonly OptionList[] = [
  { key: 'grades', name: 'Grades', options: [{ key: 'good', name: 'Good' }] },
];

interface FormProps {
  readonly field: Field;
  readonly before?: Field | null;
  readonly told: (draft: FieldDraft) => void;
}

function Form({ field, before = null, told }: FormProps) {
  const [draft, setDraft] = useState<FieldDraft>({ field, whereEmpty: null, replaced: {} });
  const change = (next: FieldDraft) => {
    told(next);
    setDraft(next);
  };
  return <FieldForm draft={draft} onChange={change} before={before} types={TYPES} lists={LISTS} />;
}

/** The draft as it was changed last. */
let draft: FieldDraft;
const told = (next: FieldDraft) => {
  draft = next;
};
const labels = () => screen.getAllByText(/./, { selector: 'label' }).map(({ textContent }) => textContent);

const show = (form: ReactElement) => render(<Screen>{form}</Screen>);

test('each kind asks for its own settings, and leaves those of the one before', () => {
  show(<Form told={told} field={{ key: 'worth', name: 'Worth', type: { kind: 'text' }, default: 'much' }} />);
  choose('Kind', 'number');
  expect(draft.field).toEqual({ key: 'worth', name: 'Worth', type: { kind: 'number', scale: 0 } });
  fireEvent.change(screen.getByRole('spinbutton', { name: 'Decimal places' }), { target: { value: '3' } });
  fireEvent.change(screen.getByRole('textbox', { name: 'Unit' }), { target: { value: 'kg' } });
  expect(draft.field.type).toEqual({ kind: 'number', scale: 3, unit: 'kg' });
  choose('Kind', 'money');
  expect(draft.field.type).toEqual({ kind: 'money', currency: 'GBP' });
  expect(labels()).not.toContain('Decimal places');
});

test('a link says which type it names, what the other end is called, and what happens when that goes', () => {
  show(<Form told={told} field={{ key: 'at', name: 'At', type: { kind: 'text' } }} />);
  choose('Kind', 'link');
  expect(draft.field.type).toEqual({ kind: 'link', target: 'loan' });
  fireEvent.change(screen.getByRole('textbox', { name: 'Name of the other end' }), {
    target: { value: 'Things' },
  });
  choose('When the parent is deleted', 'it loses the link');
  expect(draft.field).toMatchObject({ otherEnd: 'Things', whenParentGoes: 'clear' });
  expect(labels()).not.toContain('Default');
});

test('a number that Oikon gives can be neither required nor unique', () => {
  show(
    <Form
      told={told}
      field={{ key: 'no', name: 'No', type: { kind: 'text' }, required: true, unique: true }}
    />,
  );
  choose('Kind', 'serial number');
  expect(draft.field).toEqual({ key: 'no', name: 'No', type: { kind: 'serial', prefix: '', digits: 4 } });
  expect(screen.queryByRole('checkbox', { name: 'Required' })).toBeNull();
});

test('options are made, named and taken away; of one that goes it is asked what takes its place', () => {
  const field: Field = {
    ...{ key: 'state', name: 'State' },
    type: {
      kind: 'choice',
      options: [
        { key: 'asked', name: 'Asked' },
        { key: 'agreed', name: 'Agreed' },
      ],
    },
  };
  show(<Form told={told} field={field} before={field} />);
  fireEvent.click(screen.getByRole('button', { name: /Add an option$/ }));
  fireEvent.change(screen.getByRole('textbox', { name: 'Option 3' }), { target: { value: 'Lent' } });
  fireEvent.click(screen.getByRole('button', { name: 'Move Lent up' }));
  fireEvent.click(screen.getByRole('button', { name: 'Remove Agreed' }));
  expect(draft.field.type).toMatchObject({ options: [{ name: 'Asked' }, { name: 'Lent' }] });
  choose('In place of Agreed', 'Lent');
  const [, lent] = (draft.field.type as { options: readonly { key: string }[] }).options;
  expect(draft.replaced).toEqual({ agreed: lent!.key });
});

test('options can come from a list, and stand in the field again as its own', () => {
  show(<Form told={told} field={{ key: 'grade', name: 'Grade', type: { kind: 'choice', options: [] } }} />);
  choose('Options', 'from the list Grades');
  expect(draft.field.type).toMatchObject({ list: 'grades', options: [{ key: 'good' }] });
  expect(screen.queryByRole('button', { name: /Add an option$/ })).toBeNull();
  choose('Options', 'of its own');
  expect(draft.field.type).toEqual({ kind: 'choice', options: [{ key: 'good', name: 'Good' }] });
});

test('a field that becomes required asks what stands where it is empty', () => {
  const field: Field = { key: 'note', name: 'Note', type: { kind: 'text' } };
  show(<Form told={told} field={field} before={field} />);
  fireEvent.click(screen.getByRole('checkbox', { name: 'Required' }));
  fireEvent.change(screen.getByRole('textbox', { name: 'Where it is empty' }), { target: { value: 'none' } });
  expect(draft).toMatchObject({ field: { required: true }, whereEmpty: 'none' });
});
