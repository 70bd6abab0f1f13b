import { v7 as newId } from 'uuid';
import type { Bundle, BundleRule } from '@/core/intake';
import type { RuleDefinition } from '@/core/rules';
import type { FamilyData } from '@/core/verify';
import { sameData } from '@/core/values';
import type { Transaction } from 'sequelize';
import { quote, run } from '@/server/store/sql/sql';
import { insertProof } from '@/server/actions/rules/proofs';
import { insertRequest, writeRequestRules } from '@/server/actions/rules/requests';
import type { SavedListInput } from '@/server/forms/types';

export async function insertRules(
  transaction: Transaction,
  schema: string,
  { rules }: Bundle,
): Promise<void> {
  for (const { state, live, pilot, tried, ...rule } of rules) {
    const { id } = rule;
    const latest = await insertRule(transaction, schema, { ...rule, person: null });
    if (state === 'draft') continue;
    const version = live ? newId() : latest;
    if (live)
      await insertVersion(transaction, schema, {
        id: version,
        rule: id,
        number: 0,
        definition: live,
        person: null,
      });
    const trying = tried && !sameData(tried, rule.definition) ? newId() : latest;
    if (tried && trying !== latest)
      await insertVersion(transaction, schema, {
        ...{ id: trying, rule: id, number: -1, definition: tried, person: null },
      });
    await run(
      transaction,
      `UPDATE ${quote(schema)}._rule SET state = $2, live_version = $3, pilot = $4, pilot_version = $5 WHERE id = $1`,
      [
        ...[id, state, state === 'live' ? version : null, pilot ? JSON.stringify(pilot) : null],
        tried ? trying : null,
      ],
    );
  }
}

type InsertedRule = Pick<BundleRule, 'id' | 'name' | 'isNamed' | 'note' | 'tags' | 'definition'> & {
  readonly person: string | null;
};

/** A rule as a draft; answers the id of its version. */
export async function insertRule(
  transaction: Transaction,
  schema: string,
  rule: InsertedRule,
): Promise<string> {
  const version = newId();
  await run(
    transaction,
    `INSERT INTO ${quote(schema)}._rule (id, name, is_named, note, tags, state, latest_version) VALUES ($1, $2, $3, $4, $5, 'draft', $6)`,
    [rule.id, rule.name, rule.isNamed !== false, rule.note, rule.tags ?? [], version],
  );
  const { definition, person } = rule;
  await insertVersion(transaction, schema, { id: version, rule: rule.id, number: 1, definition, person });
  return version;
}

interface InsertedVersion {
  readonly id: string;
  readonly rule: string;
  readonly number: number;
  readonly definition: RuleDefinition;
  readonly person: string | null;
}

export const insertVersion = (transaction: Transaction, schema: string, version: InsertedVersion) =>
  run(
    transaction,
    `INSERT INTO ${quote(schema)}._rule_version (id, rule, number, definition, person) VALUES ($1, $2, $3, $4, $5)`,
    [version.id, version.rule, version.number, JSON.stringify(version.definition), version.person],
  );

export async function insertFamilies(
  transaction: Transaction,
  schema: string,
  families: Bundle['families'],
): Promise<void> {
  for (const { name, note, data } of families) {
    const { root, members } = data as FamilyData;
    await run(
      transaction,
      `INSERT INTO ${quote(schema)}._sample_family (id, name, note, root_type, root, data, members) VALUES ($1, $2, $3, $4, $5, $6, $7)`,
      [newId(), name, note, root.type, root.id, JSON.stringify(data), members.length],
    );
  }
}

export async function insertProofs(
  transaction: Transaction,
  schema: string,
  proofs: Bundle['proofs'],
  person: string | null,
): Promise<void> {
  for (const proof of proofs) await insertProof(transaction, schema, proof, person);
}

/** Requests with the proofs that they name, where these are there. */
export async function insertRequests(
  transaction: Transaction,
  schema: string,
  requests: Bundle['requests'],
  person: string | null,
): Promise<void> {
  if (requests.length === 0) return;
  const proofs = await run<{ id: string; rule: string; name: string }>(
    transaction,
    `SELECT id::text, rule::text, name FROM ${quote(schema)}._proof`,
  );
  const keyOf = ({ rule, name }: { rule: string; name: string }) => `${rule} ${name.toLowerCase()}`;
  const ids = new Map(proofs.map((proof) => [keyOf(proof), proof.id]));
  for (const { name, askedBy, words, due, points, rules } of requests) {
    const id = newId();
    const own = points.map(({ text, proofs: named }) => ({
      text,
      proofs: named.flatMap((proof) => ids.get(keyOf(proof)) ?? []),
    }));
    await insertRequest(transaction, schema, { id, name, askedBy, words, due, points: own, person });
    await writeRequestRules(transaction, schema, id, rules);
  }
}

export async function insertLists(
  transaction: Transaction,
  schema: string,
  lists: readonly SavedListInput[],
): Promise<void> {
  for (const { name, definition } of lists)
    await run(
      transaction,
      `INSERT INTO ${quote(schema)}._saved_list (id, name, definition) VALUES ($1, $2, $3)`,
      [...[newId(), name, JSON.stringify(definition)]],
    );
}
