import type { Model } from '@/core/model';
import { certain, parseValue } from '@/core/values';
import { differenceOf, type RuleName, valueView, type ValueView } from '@/core/verify';
import type { Transaction } from 'sequelize';
import type { LedgerSource } from '@/server/store/write/ledger-entries';
import { quote, run } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { readTitles, Wanted } from '@/server/store/session/titles';

/** What of a ledger entry names records, people and rules. */
export interface Logged {
  readonly type: string;
  readonly changes: Readonly<Record<string, readonly [unknown, unknown]>>;
  readonly sources: Readonly<Record<string, LedgerSource>>;
}

export interface LedgerWords {
  readonly titles: Readonly<Record<string, string>>;
  /** Rules by the version that wrote. */
  readonly rules: Readonly<Record<string, RuleName>>;
}

/** Titles of causes, of linked records and of whatever else is wanted, and names of the rules, for all entries at once. */
export async function readLedgerWords(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  logged: readonly Logged[],
  wanted = new Wanted(),
): Promise<LedgerWords> {
  const { model, schema, people } = workspace;
  const sources = logged.flatMap((entry) => Object.values(entry.sources));
  for (const { type, id } of sources.flatMap((source) => source.causes)) wanted.add(type, id);
  for (const { type, changes } of logged) {
    for (const [key, values] of Object.entries(changes)) {
      const field = model.field(type, key);
      if (field?.type.kind === 'link') for (const value of values) wanted.add(field.type.target, value);
    }
  }
  const found = await run<RuleName & { version: string }>(
    transaction,
    `SELECT v.id::text AS version, r.id::text AS id, r.name, v.definition ->> 'kind' AS kind FROM ${quote(schema)}._rule_version v
      JOIN ${quote(schema)}._rule r ON r.id = v.rule WHERE v.id = ANY($1::uuid[])`,
    [[...new Set(sources.flatMap(({ ruleVersion }) => ruleVersion ?? []))]],
  );
  return {
    titles: { ...Object.fromEntries(people), ...(await readTitles(transaction, workspace, wanted)) },
    rules: Object.fromEntries(found.map(({ version, ...rule }) => [version, rule])),
  };
}

export const ruleOf = (source: LedgerSource | undefined, { rules }: LedgerWords) =>
  source?.ruleVersion ? (rules[source.ruleVersion] ?? null) : null;

/** The name of a field; of one that has been removed from the model its key. */
export const fieldName = (model: Model, type: string, key: string): string =>
  model.field(type, key)?.name ?? `${key} (removed)`;

/** The same for a type. */
export const typeName = (model: Model, type: string): string => model.type(type)?.name ?? `${type} (removed)`;

/** The same of several of them. */
export const pluralOf = (model: Model, type: string): string =>
  model.type(type)?.plural ?? `${type} (removed)`;

/** By how much an amount changed, as the ledger holds both; `null` where it isn't one, or no longer fits its field. */
export function loggedDifference(
  model: Model,
  { type, field: key }: { readonly type: string; readonly field: string },
  before: unknown,
  after: unknown,
): string | null {
  const field = model.field(type, key);
  const [from, to] = [before, after].map((wire) => (field ? parseValue(field.type, wire) : null));
  return field && from?.ok && to?.ok ? differenceOf(field.type, from.value, to.value) : null;
}

/** A value as the ledger holds it; one that no longer fits its field, or whose field is gone, is shown as it is. */
export function loggedValue(
  model: Model,
  { type, field: key }: { readonly type: string; readonly field: string },
  wire: unknown,
  { titles }: LedgerWords,
): ValueView {
  const field = model.field(type, key);
  const parsed = field && parseValue(field.type, wire);
  return parsed?.ok
    ? valueView(certain(field).type, parsed.value, (id) => titles[id])
    : { wire: null, text: asItIs(wire) };
}

function asItIs(wire: unknown): string {
  if (wire === null) return 'empty';
  if (typeof wire !== 'object') return String(wire);
  const { amount, currency } = wire as { amount?: string; currency?: string };
  return amount !== undefined ? `${amount} ${currency}` : [wire].flat().join(', ');
}
