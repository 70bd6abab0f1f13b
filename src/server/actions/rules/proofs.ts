import { firstIn, parseValue, writeCount } from '@/core/values';
import { daysOf, fittedFamily, type Proof, runProof, withDrafts } from '@/core/verify';
import { type ProofRunView } from '@/core/api';
import type { BundleProof } from '@/core/intake';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import {
  findProof,
  HEAD,
  type ProofContent,
  proofIn,
  ranView,
  readHeads,
  type StoredHead,
  unknownProof,
} from '@/server/queries/rules/proofs';
import { findRule, latestOf } from '@/server/queries/rules/rules';
import { Refusal } from '@/server/refusal';
import { quote, run } from '@/server/store/sql/sql';
import { type By, checkedName, removeRow, saveBy } from '@/server/actions/named';
import type { NewProof, ProofPatch } from '@/server/forms/types';

/** Most records of a proof's family. */
const MOST_RECORDS = 20_000;
/** Most proofs of one rule. */
const MOST_PROOFS = 200;

/**
 * Keeps a rehearsal with what must come of it. It needn't hold yet. Refuses one whose family or expectations don't fit the model and the
 * rules, one that is too large, and a name that another proof of the rule has.
 */
export function keepProof(by: By, { rule: id, name, ...input }: NewProof): Promise<ProofRunView> {
  return saveBy(by, async ({ workspace, transaction }) => {
    const rule = latestOf(await findRule(transaction, workspace.schema, id));
    const heads = await readHeads(transaction, workspace, rule.id);
    if (heads.length >= MOST_PROOFS)
      throw new Refusal(409, 'proof.most', `A rule has at most ${MOST_PROOFS} proofs. Remove some first.`);
    const taken = heads.map((one) => one.name.toLowerCase());
    if (input.family.records.length > MOST_RECORDS)
      throw new Refusal(
        422,
        'proof.size',
        `The family has ${writeCount(input.family.records.length)} records; a proof has at most ${writeCount(MOST_RECORDS)}. Choose one with fewer beneath it.`,
      );
    const { family, lost } = fittedFamily(workspace.model, input.family);
    if (lost > 0 || !family.members.includes(family.root.id)) throw unfit();
    const day = input.day ?? workspace.settledDay;
    const settings = input.settings ?? [];
    for (const one of daysOf(day, settings))
      if (!parseValue({ kind: 'date' }, one).ok)
        throw new Refusal(422, 'proof.day', `${one} is no day of the calendar. Give one as year-month-day.`);
    const content: ProofContent = {
      ...{ family, runs: input.runs, settings, day },
      // A family may name people who aren’t the workspace’s: made-up ones, or who has left.
      people: [...new Set([...workspace.people.keys(), ...Object.keys(family.names)])],
    };
    const somebody = settings.find(({ person }) => person && !content.people.includes(person));
    if (somebody)
      throw new Refusal(
        422,
        'proof.person',
        `${somebody.person} isn’t a person of this workspace, so the proof can’t say that they act. Choose somebody else.`,
      );
    const proof: Proof = {
      ...{ ...content, id: newId(), rule: rule.id, expectations: input.expectations },
      name: checkedName('proof', name, taken),
    };
    const result = runProof(workspace.model, withDrafts(workspace.live, [rule]), proof);
    if (result.kind === 'unfit') throw unfit();
    const stored = await insertProof(transaction, workspace.schema, proof, by.person);
    return ranView(workspace, proof, stored, result);
  });
}

/** Writes a proof as it is given. */
export async function insertProof(
  transaction: Transaction,
  schema: string,
  { id, rule, name, expectations, family, day, people, runs, settings = [] }: BundleProof,
  person: string | null,
): Promise<StoredHead> {
  const stored = firstIn(
    await run<StoredHead>(
      transaction,
      `INSERT INTO ${quote(schema)}._proof (id, rule, name, content, expectations, person)
      VALUES ($1, $2, $3, $4, $5, $6) RETURNING ${HEAD}`,
      [
        ...[id, rule, name, JSON.stringify({ family, day, people, runs, settings })],
        ...[JSON.stringify(expectations), person],
      ],
    ),
  );
  return stored;
}

const unfit = (): Refusal =>
  new Refusal(
    422,
    'proof.unfit',
    'The proof names a record type, a field, a value or a rule that the model doesn’t have so. Rehearse it again, and keep it then.',
  );

/** Gives a proof another name or other expectations; what it runs on never changes. Refuses what `keepProof` refuses. */
export function changeProof(
  by: By,
  id: string,
  { version, name, expectations }: ProofPatch,
): Promise<ProofRunView> {
  return saveBy(by, async ({ workspace, transaction }) => {
    const was = await findProof(transaction, workspace, id);
    if (was.version !== version)
      throw new Refusal(
        409,
        'proof.version',
        'Somebody changed the proof meanwhile. Look at it as it is now, and change it then.',
      );
    const rule = latestOf(await findRule(transaction, workspace.schema, was.rule));
    const others = (await readHeads(transaction, workspace, was.rule)).filter((one) => one.id !== was.id);
    const taken = others.map((one) => one.name.toLowerCase());
    const proof: Proof = {
      ...proofIn(was),
      ...(expectations ? { expectations } : {}),
      ...(name === undefined ? {} : { name: checkedName('proof', name, taken) }),
    };
    const result = runProof(workspace.model, withDrafts(workspace.live, [rule]), proof);
    if (expectations && result.kind === 'unfit') throw unfit();
    const stored = firstIn(
      await run<StoredHead>(
        transaction,
        `UPDATE ${quote(workspace.schema)}._proof SET name = $2, expectations = $3, version = version + 1
        WHERE id = $1 RETURNING ${HEAD}`,
        [proof.id, proof.name, JSON.stringify(proof.expectations)],
      ),
    );
    return ranView(workspace, proof, stored, result);
  });
}

export function removeProof(by: By, id: string): Promise<void> {
  return saveBy(by, async ({ workspace, transaction }) => {
    if (!(await removeRow(transaction, workspace.schema, '_proof', id))) throw unknownProof();
  });
}
