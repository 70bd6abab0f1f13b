import {
  AVERAGE_INSURED,
  galleries,
  INSURED_TOTAL,
  LAST_DUE,
  LOAN_ARTEFACTS,
  ruleOf,
  uuid,
} from '@/core/testing/galleries';
import type { WireEdit } from '@/core/engine';
import { PLAIN_FORM } from '@/core/values';
import type { Transaction } from 'sequelize';
import { database, disconnect } from '@/server/database/connection';
import { getRecord } from '@/server/queries/records/records';
import { Refusal } from '@/server/refusal';
import { readSeen } from '@/server/store/run/lock-rows';
import { AnsweredBefore } from '@/server/store/session/answered';
import { inRequest, type RequestContext } from '@/server/store/session/request-context';
import { cachedRow } from '@/server/store/session/row-cache';
import { inSnapshot } from '@/server/store/session/transactions';
import { quote, run } from '@/server/store/sql/sql';
import { expectSound } from '@/server/testing/expect-sound';
import { EXHIBITIONS, fewParents, numbersFrom, someEdits } from '@/server/testing/traffic';
import { anId, TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { saveAsSeen } from './save-as-seen';
import { saveEdits } from '@/server/actions/records/save-edits';

let workspace: TestWorkspace;
let schema: string;
/** What is worked out from records that aren't locked, all the way up or from all that lie beneath, isn't saved by what was seen. */
const RULES = [INSURED_TOTAL, LOAN_ARTEFACTS, AVERAGE_INSURED, LAST_DUE].map((definition, at) =>
  ruleOf(definition, at + 1),
);

const open = async () => {
  workspace = await testWorkspace({ model: galleries(), rows: fewParents(), rules: RULES });
  ({ schema } = await workspace.load());
};
beforeEach(open);
afterEach(() => workspace.remove());
afterAll(disconnect);

const loan = uuid('201');
const [, exhibition] = EXHIBITIONS as [string, string];

const input = (...edits: WireEdit[]) => ({ workspace: workspace.key, person: TESTER.id, edits });
const insured = (amount: string) =>
  input({ kind: 'edit', type: 'loan', id: loan, values: { insuredValue: { amount, currency: 'GBP' } } });

/** Its records are known then, with their versions. */
const seeOnce = () => saveEdits(insured('100.00'));

const now = async (): Promise<unknown> => {
  const row = (await workspace.rows()).find(({ id }) => id === loan)!;
  return JSON.stringify(row.values.insuredValue);
};

/** Something done by another program, or another process of Oikon. */
const elsewhere = (text: string): Promise<unknown> =>
  database().transaction((transaction) => run(transaction, text.replaceAll('{s}', quote(schema))));

test('what this process saw is saved by one statement, with the same ripple as by looking first', async () => {
  expect(await saveAsSeen(insured('100.00'))).toBeNull();
  const looked = await seeOnce();
  const saved = await saveAsSeen(insured('250.00'));
  expect(saved?.ids).toEqual(looked.ids);
  const fields = ({ ripple }: typeof looked) =>
    ripple.waves.map(({ changes }) => changes.map(({ type, id, field }) => [type, id, field]));
  expect(fields(saved!)).toEqual(fields(looked));
  expect(await now()).toContain('250');
  await expectSound(workspace);
});

test('a record that was looked at is known, too; what changes nothing goes the usual way', async () => {
  await saveEdits(input({ kind: 'edit', type: 'loan', id: uuid('204'), values: { stage: 'agreed' } }));
  expect(await saveAsSeen(insured('100.00'))).toBeNull();
  await getRecord(await workspace.load(), 'loan', loan);
  await saveEdits(input({ kind: 'edit', type: 'loan', id: uuid('205'), values: { stage: 'agreed' } }));
  expect(await saveAsSeen(insured('250.00'))).not.toBeNull();
  expect(await saveAsSeen(insured('250.00'))).toBeNull();
  expect((await saveEdits(insured('250.00'))).run).toBeNull();
  await expectSound(workspace);
});

test('a new record under a parent that is known is made so; a number that is taken meanwhile isn’t made twice', async () => {
  await seeOnce();
  const made = (id: string) =>
    input({ kind: 'create', type: 'artefact', id, values: { title: 'New', loan } });
  const id = anId();
  expect((await saveAsSeen(made(id)))?.ids).toEqual([id]);
  expect(await saveAsSeen(made(id))).toBeNull();
  await expect(saveEdits(made(id))).rejects.toThrow(Refusal);
  await expectSound(workspace);
});

test.each([
  ['the record', `UPDATE {s}.loan SET insured_value = 777 WHERE id = '${loan}'`],
  [
    'what is kept beside a parent’s total',
    `UPDATE {s}.exhibition SET insured_total__n = NULL WHERE id = '${exhibition}'`,
  ],
  ['a parent’s own field', `UPDATE {s}.exhibition SET title = 'Otherwise' WHERE id = '${exhibition}'`],
])('where another program changed %s, nothing is saved by what was seen', async (_, text) => {
  await seeOnce();
  await elsewhere(text);
  expect(await saveAsSeen(insured('250.00'))).toBeNull();
  expect(await now()).not.toContain('250');
  await saveEdits(insured('250.00'));
  expect(await now()).toContain('250');
});

test.each([
  ['commits', false],
  ['takes back', true],
])('it waits for another that has written and %s', async (_, isTakenBack) => {
  await seeOnce();
  const other = await database().transaction();
  await run(other, `UPDATE ${quote(schema)}.exhibition SET title = 'Otherwise' WHERE id = '${exhibition}'`);
  const saving = saveAsSeen(insured('250.00'));
  await untilSomebodyWaits();
  await (isTakenBack ? other.rollback() : other.commit());
  expect((await saving) !== null).toBe(isTakenBack);
  await saveEdits(insured('300.00'));
  await expectSound(workspace);
});

/** Until a statement waits for a lock. */
async function untilSomebodyWaits(): Promise<void> {
  const waiting = (transaction: Transaction) =>
    run(
      transaction,
      "SELECT FROM pg_stat_activity WHERE datname = current_database() AND wait_event_type = 'Lock'",
    );
  while ((await inSnapshot(waiting)).length === 0);
}

test('where the database ends the connection before it saved, that is told as an outage, not as an outcome that nobody knows', async () => {
  await seeOnce();
  const other = await database().transaction();
  await run(other, `SELECT FROM ${quote(schema)}.exhibition WHERE id = '${exhibition}' FOR NO KEY UPDATE`);
  const saving = saveAsSeen(insured('250.00')).catch((error: unknown) => error);
  await untilSomebodyWaits();
  await elsewhere(
    "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND wait_event_type = 'Lock'",
  );
  expect(await saving).toMatchObject({ code: '57P01' });
  await other.rollback();
  expect(await now()).not.toContain('250');
  await saveEdits(insured('300.00'));
  await expectSound(workspace);
});

test('rules or a model that changed, or are being changed, are never saved by: it waits for nobody', async () => {
  await seeOnce();
  const changing = await database().transaction();
  await run(changing, `SELECT FROM ${quote(schema)}.begin_change()`);
  expect(await saveAsSeen(insured('250.00'))).toBeNull();
  await run(changing, `UPDATE ${quote(schema)}._state SET epoch = epoch + 1`);
  await changing.commit();
  expect(await saveAsSeen(insured('250.00'))).toBeNull();
  expect(await now()).not.toContain('250');
  await saveEdits(insured('250.00'));
  expect(await saveAsSeen(insured('300.00'))).not.toBeNull();
  await expectSound(workspace);
});

const request = (more: Partial<RequestContext>): RequestContext => ({
  ...{ key: null, hasSaved: false, proof: null, form: PLAIN_FORM },
  ...more,
});

test('a request’s key is kept with what it saves, and isn’t taken twice', async () => {
  await seeOnce();
  const key = { key: 'once', person: TESTER.id, fingerprint: 'f', schema };
  const saving = (amount: string) => inRequest(request({ key }), () => saveAsSeen(insured(amount)));
  expect(await saving('250.00')).not.toBeNull();
  await expect(saving('300.00')).rejects.toThrow(AnsweredBefore);
  expect(await now()).toContain('250');
  await expectSound(workspace);
});

test('for somebody who isn’t signed in any more nothing is saved', async () => {
  await seeOnce();
  const proof = { by: 'session', id: Buffer.alloc(32), since: '2026-03-14', holds: false } as const;
  expect(await inRequest(request({ proof: { ...proof } }), () => saveAsSeen(insured('250.00')))).toBeNull();
  expect(await now()).not.toContain('250');
});

test('whatever is saved, what is remembered of a version is what stands in it', async () => {
  const known = await workspace.load();
  for (const { type, id } of fewParents()) await getRecord(known, type, id);
  const number = numbersFrom(7);
  let quick = 0;
  for (let at = 0; at < 150; at += 1) {
    const edits = someEdits(number);
    if (at % 20 === 19)
      await elsewhere(
        `UPDATE {s}.loan SET weight = ${at} WHERE id = '${uuid(`2${String(at % 12).padStart(2, '0')}`)}'`,
      );
    try {
      if (await saveAsSeen(input(...edits))) quick += 1;
      else await saveEdits(input(...edits));
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
    }
  }
  expect(quick).toBeGreaterThan(10);
  const loaded = await workspace.load();
  let compared = 0;
  for (const { key: type } of loaded.model.types) {
    const ids = (await workspace.rows()).filter((row) => row.type === type).map(({ id }) => id);
    const stored = await inSnapshot((transaction) => readSeen(transaction, loaded, { type, ids }));
    for (const one of stored) {
      const known = cachedRow(loaded, one.row);
      if (known?.stamp !== one.stamp) continue;
      compared += 1;
      expect(known.row).toEqual(one.row);
      for (const [field, accumulator] of one.beside.accumulators)
        expect(known.beside.accumulators.get(field)).toEqual(accumulator);
      for (const [field, leader] of one.beside.leaders) expect(known.beside.leaders.get(field)).toBe(leader);
    }
  }
  expect(compared).toBeGreaterThan(20);
  await expectSound(workspace);
});
