import { checkModel, changeModel, type ModelChange, type OpenLink, type RecordType } from '@/core/model';
import { buildPlan } from '@/core/plan';
import { CHECK, withChecks } from '@/core/testing/checks';
import { decimal, GALLERIES, rowOf, uuid } from '@/core/testing/galleries';
import { displayValue, parseValue, type ValueType } from '@/core/values';
import {
  MemoryStore,
  propagate,
  readEdits,
  type RunOutcome,
  runInMemory,
  type WireEdit,
} from '@/core/engine';

const model = withChecks();
const { plan } = buildPlan(model, []);
const [loan, urn, check, other] = [uuid('21'), uuid('31'), uuid('41'), uuid('42')];
const SERIAL = CHECK.fields[1]!.type;

const read = (...edits: WireEdit[]) =>
  readEdits({ model, plan, edits, people: new Set(), newId: () => uuid('77') });
const codes = (...edits: WireEdit[]) => {
  const result = read(...edits);
  return result.ok ? [] : result.problems.map(({ place, code }) => `${place} ${code}`);
};

function storeOf(isWhole = true): MemoryStore {
  const store = new MemoryStore(model, isWhole);
  store.put(rowOf(model, 'loan', loan, { title: 'Robes' }));
  store.put(rowOf(model, 'artefact', urn, { title: 'Urn', loan }));
  store.put(rowOf(model, 'check', check, { title: 'First', loan, number: decimal(7) }));
  return store;
}

function run(store: MemoryStore, ...edits: WireEdit[]): RunOutcome {
  const result = read(...edits);
  if (!result.ok) throw new Error(result.problems.map(({ message }) => message).join(' '));
  return runInMemory(model, store, propagate({ model, plan, edits: result.edits }));
}

describe('an open link', () => {
  test('filling one of its links empties the others, and the run says so', () => {
    const store = storeOf();
    const outcome = run(store, { kind: 'edit', type: 'check', id: check, values: { artefact: urn } });
    expect(store.row('check', check)!.values).toMatchObject({ artefact: urn, loan: null });
    expect(outcome.kind === 'done' && outcome.ripple.changes.map(({ field }) => field).sort()).toEqual([
      'artefact',
      'loan',
    ]);
  });

  test('two parents at once are refused, and so is none where it is required', () => {
    const create = (values: Record<string, unknown>): WireEdit => ({
      ...{ kind: 'create', type: 'check', id: other },
      values: { title: 'Second', ...values },
    });
    expect(codes(create({ loan, artefact: urn }))).toEqual(['concerns link.several']);
    expect(codes(create({}))).toEqual(['concerns edit.required']);
    expect(codes(create({ loan: null, artefact: urn }))).toEqual([]);
    const outcome = run(storeOf(), { kind: 'edit', type: 'check', id: check, values: { loan: null } });
    expect(outcome).toMatchObject({
      kind: 'refused',
      problems: [
        { place: 'concerns', code: 'edit.required', message: expect.stringContaining('Loan or Artefact') },
      ],
    });
  });

  test('its records are children of each of its parents and go with them', () => {
    const store = storeOf();
    expect(model.linksTo('loan').map(({ type, link }) => `${type}.${link}`)).toContain('check.loan');
    run(store, { kind: 'delete', type: 'loan', id: loan });
    expect(store.row('check', check)!.deleted).toBe(true);
  });

  test.each<[string, Partial<OpenLink>, RegExp]>([
    ['one link', { links: ['loan'] }, /at least two links/],
    ['a field that is no link', { links: ['loan', 'title'] }, /not all of loan, title are/],
    ['a key that a field has', { key: 'title' }, /has a field with the key “title” too/],
  ])('a model with %s in it is refused', (_, part, message) => {
    const type: RecordType = { ...CHECK, openLinks: [{ ...CHECK.openLinks![0]!, ...part }] };
    const problems = checkModel({ types: [...GALLERIES.types, type] });
    expect(problems.map((problem) => problem.message).join(' ')).toMatch(message);
  });

  test('a link that is required, or cleared where the open link is required, can’t be one of its links', () => {
    const withLink = (part: object): RecordType => ({
      ...CHECK,
      fields: CHECK.fields.map((field) => (field.key === 'loan' ? { ...field, ...part } : field)),
    });
    const messages = (type: RecordType) =>
      checkModel({ types: [...GALLERIES.types, type] })
        .map(({ message }) => message)
        .join(' ');
    expect(messages(withLink({ required: true }))).toMatch(/None of its links can be required by itself/);
    expect(messages(withLink({ whenParentGoes: 'clear' }))).toMatch(
      /can’t be cleared when their parent goes/,
    );
  });

  test('making, changing and removing one says what has to happen to the tables, after all other steps', () => {
    const before = { types: [...GALLERIES.types, CHECK] };
    const steps = (...changes: ModelChange[]) => {
      const changed = changeModel(before, changes);
      return changed.ok ? changed.steps.map((step) => step.kind) : changed.problems.map(({ code }) => code);
    };
    const open = CHECK.openLinks![0]!;
    expect(steps({ kind: 'removeOpenLink', type: 'check', key: 'concerns' })).toEqual(['openLink']);
    expect(steps({ kind: 'changeOpenLink', type: 'check', to: { ...open, name: 'Of' } })).toEqual([]);
    expect(steps({ kind: 'changeOpenLink', type: 'check', to: { ...open, required: false } })).toEqual([
      'openLink',
    ]);
    expect(steps({ kind: 'removeField', type: 'check', key: 'loan' })).toEqual(['model.openLink']);
    const venue = {
      ...{ key: 'venue', name: 'Venue', type: { kind: 'link', target: 'institution' } as const },
      ...{ otherEnd: 'Checks', whenParentGoes: 'delete' as const },
    };
    expect(
      steps(
        { kind: 'changeOpenLink', type: 'check', to: { ...open, links: ['artefact', 'venue'] } },
        { kind: 'addField', type: 'check', field: venue },
        { kind: 'removeField', type: 'check', key: 'loan' },
      ),
    ).toEqual(['addField', 'removeField', 'openLink']);
  });
});

describe('serial numbers', () => {
  const create = (id: string, title: string): WireEdit => ({
    ...{ kind: 'create', type: 'check', id, values: { title, loan } },
  });

  test('new records are numbered on from the highest, in the order of the edits', () => {
    const store = storeOf();
    run(store, create(other, 'Second'), create(uuid('43'), 'Third'));
    const number = (id: string) => displayValue(SERIAL, store.row('check', id)!.values.number!);
    expect([number(other), number(uuid('43'))]).toEqual(['C-008', 'C-009']);
  });

  test('where records may lie outside nobody knows the next one: it is given when saved', () => {
    const store = storeOf(false);
    run(store, create(other, 'Second'));
    expect(store.row('check', other)!.values.number).toBeNull();
    expect(displayValue(SERIAL, null)).toBe('given when saved');
  });

  test('people can’t enter or change one; records that come with theirs keep them', () => {
    const edit = { kind: 'edit', type: 'check', id: check, values: { number: 'C-900' } } as const;
    expect(codes(edit)).toEqual(['number edit.serial']);
    const given = readEdits({
      ...{ model, plan, people: new Set<string>(), newId: () => uuid('77'), areNumbersGiven: true },
      edits: [{ ...create(other, 'Second'), values: { title: 'Second', loan, number: 'C-900' } }],
    });
    expect(given).toMatchObject({ ok: true });
  });

  test('they are read with their prefix or without, and shown with at least their digits', () => {
    const readOne = (text: string) => {
      const parsed = parseValue(SERIAL, text);
      return parsed.ok ? displayValue(SERIAL, parsed.value) : parsed.problem.message;
    };
    expect(['C-42', '42', 'C-0042', '12345'].map(readOne)).toEqual(['C-042', 'C-042', 'C-042', 'C-12345']);
    expect(readOne('D-42')).toMatch(/Expected a serial number such as C-001, found “D-42”/);
    expect(readOne('0')).toMatch(/Expected a serial number/);
  });

  test.each<[Partial<Extract<ValueType, { kind: 'serial' }>>, RegExp]>([
    [{ digits: 0 }, /1 to 12 digits, not 0/],
    [{ prefix: 'No 1' }, /a digit at its end/],
  ])('settings %j are refused', (part, message) => {
    const type = { ...SERIAL, ...part } as ValueType;
    const fields = CHECK.fields.map((field) => (field.key === 'number' ? { ...field, type } : field));
    const problems = checkModel({ types: [...GALLERIES.types, { ...CHECK, fields }] });
    expect(problems.map((problem) => problem.message).join(' ')).toMatch(message);
  });
});
