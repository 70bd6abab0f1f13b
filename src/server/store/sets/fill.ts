import { MERGE_ENTRY } from '@/server/store/sql/ledger-merge';
import { grouped } from '@/core/grouped';
import { certain, firstIn, itemAt, type ValueType } from '@/core/values';
import {
  type CompiledRule,
  isKeptByDifference,
  isKeptByExtremum,
  isReacting,
  type RatesRead,
} from '@/core/rules';
import { type Acting, reactionFails } from '@/core/engine';
import { fieldIn, type LinkRef, typeIn } from '@/core/model';
import { type Transaction } from 'sequelize';
import { Refusal } from '@/server/refusal';
import { levelsOf } from './hierarchy-levels';
import type { RollUpQuery } from '@/server/store/rule-sql/result-sql';
import { asksSql } from '@/server/store/rule-sql/map-sql';
import { differsSql, keptDiffersSql, rollUpSql } from '@/server/store/rule-sql/roll-up-sql';
import {
  Binds,
  columnOf,
  keptColumns,
  makeTable,
  quote,
  reactingRow,
  readColumn,
  run,
  type Schema,
  snake,
  tableOf,
} from '@/server/store/sql/sql';

export interface FillInput {
  readonly transaction: Transaction;
  readonly schema: Schema;
  /** Rules over the same link, none reading what another of them writes: one pass over the children fills them all. */
  readonly rules: readonly CompiledRule[];
  readonly run: string;
  readonly isKept: (type: string, field: string) => boolean;
  /** SQL of a query of the ids of targets; left out for all records. */
  readonly targets?: string;
  /** What rules that react do; left out where they act on a change of their result. */
  readonly acting?: Acting;
  /** What a person entered in this run stands. */
  readonly entered?: RollUpQuery['entered'];
  /** Refuses what people entered where a rule keeps a field in step: asked before anything is written, of a rule that goes all the way down level by level. */
  readonly refuse?: (targets?: string) => Promise<void>;
  /** Of a single rule that reacts: takes the ids of the records whose field it wrote, or where its value stood already. */
  readonly tellTaken?: (ids: readonly string[]) => void;
}

/**
 * Makes room for what is kept beside the targets of rules that can be kept by difference, or that react. Before anything is written. A table that has it
 * already isn't altered: that waits for all who read it, and has all who would read it wait.
 */
export async function makeKeptColumns(
  transaction: Transaction,
  { schema }: Schema,
  rules: readonly CompiledRule[],
): Promise<void> {
  for (const rule of rules) if (rule.rates) await makeRatesIndex(transaction, schema, rule.rates);
  for (const [type, ofType] of grouped(rules, ({ writes }) => writes.type)) {
    const wanted = new Map(ofType.flatMap(columnsBeside));
    const there = await run<{ name: string }>(
      transaction,
      'SELECT attname AS name FROM pg_attribute WHERE attrelid = $1::regclass AND attnum > 0 AND NOT attisdropped',
      [tableOf(schema, type)],
    );
    for (const { name } of there) wanted.delete(quote(name));
    if (wanted.size === 0) continue;
    const added = Array.from(wanted, ([column, of]) => `ADD COLUMN ${column} ${of}`).join(', ');
    await run(transaction, `ALTER TABLE ${tableOf(schema, type)} ${added}`);
  }
}

/** The columns that a rule keeps beside its target, each with its type. */
function columnsBeside(rule: CompiledRule): (readonly [string, string])[] {
  const { count, sum, errors, leader } = keptColumns(rule.writes.field);
  return [
    ...(isReacting(rule) ? [[rowOf(rule), 'integer'] as const] : []),
    ...(isKeptByExtremum(rule) ? [[leader, 'uuid'] as const] : []),
    ...(isKeptByDifference(rule)
      ? ([
          [count, 'integer'],
          [sum, 'numeric'],
          [errors, 'integer'],
        ] as const)
      : []),
  ];
}

const rowOf = ({ id, writes }: CompiledRule): string => quote(reactingRow(id, writes.field));

/** Rates are looked up by pair and day, for each amount. */
const makeRatesIndex = (transaction: Transaction, schema: string, { type, fields }: RatesRead) => {
  const [pair, day] = fields.map(columnOf);
  const name = quote(`rates_${snake(type)}`.slice(0, 60));
  return run(
    transaction,
    `CREATE INDEX IF NOT EXISTS ${name} ON ${tableOf(schema, type)} (${pair}, ${day}, id) WHERE deleted_run IS NULL`,
  );
};

let number = 0;

/**
 * Fills the targets of rules on every record: one statement works out, by several processes at once, what differs; another
 * writes it with the ledger and the problems. A rule that goes all the way down is filled level by level, parts first.
 * Records that already have the values aren't written; those that the run made aren't copied into the ledger. Answers for
 * each rule how many values it wrote.
 */
export async function fillRules(input: FillInput): Promise<number[]> {
  const filler = new Filler(input);
  const rule = firstIn(input.rules);
  const handsDown = handsDownOf(rule);
  if (!rule.recursion && !handsDown) {
    await input.refuse?.();
    return filler.fill(input.targets);
  }
  const written = input.rules.map(() => 0);
  if (await filler.isSettled()) return written;
  for (const level of await levelsInOrder(input, rule)) {
    await input.refuse?.(level);
    const found = await filler.fill(level);
    found.forEach((count, at) => {
      written[at]! += count;
    });
  }
  return written;
}

/** The self link over which a rule cascades down what it gives itself. */
export const handsDownOf = (rule: CompiledRule): LinkRef | null =>
  rule.kind === 'keptCascade' ? rule.handsDown : null;

/** Queries of the targets of a rule that goes all the way, each after those of which it reads what the rule gives: parts first, or what is above. */
export async function levelsInOrder(
  { transaction, schema }: Pick<FillInput, 'transaction' | 'schema'>,
  rule: CompiledRule,
): Promise<string[]> {
  const down = handsDownOf(rule);
  const { table, levels } = await levelsOf(
    transaction,
    schema,
    rule,
    down ? { down, up: null } : certain(rule.recursion),
  );
  const queries = Array.from({ length: levels }, (_, at) => `SELECT id FROM ${table} WHERE level = ${at}`);
  return down ? queries.reverse() : queries;
}

class Filler {
  readonly #differing: string;
  #isMade = false;

  constructor(private readonly input: FillInput) {
    number += 1;
    this.#differing = `differing_${number}`;
  }

  /**
   * Whether a rule that goes all the way down has nothing to write. Over a self link, where there are no loops, values are right
   * everywhere if each agrees with those right beneath it: one pass over what stands there tells. Over a bridge loops are looked for first.
   */
  async isSettled(): Promise<boolean> {
    const { transaction, rules } = this.input;
    if ((firstIn(rules).recursion?.up ?? null) !== null) return false;
    await this.workOut(undefined);
    const found = firstIn(
      await run<{ any: boolean }>(
        transaction,
        `SELECT EXISTS (SELECT FROM pg_temp.${quote(this.#differing)}) AS any`,
      ),
    );
    return !found.any;
  }

  /** `targets`: SQL of a query of their ids; all records where it is left out. */
  async fill(targets: string | undefined): Promise<number[]> {
    const { transaction, schema, rules, run: runId } = this.input;
    await this.workOut(targets);
    await this.tellTaken();
    const differing = `pg_temp.${quote(this.#differing)}`;
    const binds = new Binds();
    const { type } = firstIn(rules).writes;
    const s = quote(schema.schema);
    const bound = { run: binds.add(runId, 'bigint'), type: binds.add(type, 'text') };
    const problems = rules.map((rule, at) => {
      const [field, id] = [binds.add(rule.writes.field, 'text'), binds.add(rule.id, 'uuid')];
      return { at, field, id };
    });
    const text = `
    WITH updated AS (
      UPDATE ${tableOf(schema.schema, type)} t
      SET ${rules.map(setsOf).join(', ')}, problems = ${problemsSql(rules, binds)}, changed_run = CASE WHEN d.is_changed THEN ${bound.run} ELSE t.changed_run END
      FROM ${differing} d WHERE t.id = d.id
    ),
    ${problems
      .map(
        ({ at, field, id }) => `cleared${at} AS (
      DELETE FROM ${s}._problem p USING ${differing} d
      WHERE d.before_error${at} IS NOT NULL AND d.after_error${at} IS NULL AND p.record = d.id AND p.field = ${field}
    ),
    raised${at} AS (
      INSERT INTO ${s}._problem (type, record, field, rule, code, run)
        SELECT ${bound.type}, d.id, ${field}, ${id}, d.after_error${at}, ${bound.run} FROM ${differing} d
        WHERE d.after_error${at} IS NOT NULL AND d.differs${at}
        ON CONFLICT (record, field) DO UPDATE SET rule = excluded.rule, code = excluded.code, run = excluded.run
    ),`,
      )
      .join('')}
    logged AS (
      INSERT INTO ${s}._ledger AS l (run, type, record, event, changes, sources)
        SELECT ${bound.run}, ${bound.type}, d.id, 'changed', ${ledgerSql(schema, rules, binds)}
        FROM ${differing} d WHERE d.is_changed AND d.created_run <> ${bound.run}${MERGE_ENTRY}
    )
    SELECT ${rules.map((_, at) => `(count(*) FILTER (WHERE differs${at}))::int AS written${at}`).join(', ')} FROM ${differing}`;
    const row = firstIn(await run<Record<string, number>>(transaction, text, binds.values));
    return rules.map((_, at) => certain(row[`written${at}`]));
  }

  /** Where nothing that reacts writes: what a person entered in this run, and what came out of the bin in it. */
  private get standing(): RollUpQuery['entered'] {
    const { entered, schema, run: runId, rules } = this.input;
    if (!entered || !rules.some(isReacting)) return entered;
    return (ref, binds) => {
      const back = `SELECT record FROM ${quote(schema.schema)}._ledger
        WHERE run = ${binds.add(runId, 'bigint')} AND type = ${binds.add(ref.type, 'text')} AND event = 'restored'`;
      return [entered(ref, binds) ?? [], back].flat().join(' UNION ');
    };
  }

  private async tellTaken(): Promise<void> {
    const { transaction, rules, tellTaken } = this.input;
    const [rule] = rules;
    if (!tellTaken || rule?.kind !== 'rollUp') return;
    const binds = new Binds();
    const standing = this.standing?.(rule.writes, binds) ?? null;
    const found = await run<{ id: string }>(
      transaction,
      `SELECT id::text FROM pg_temp.${quote(this.#differing)} WHERE ${asksSql(rule, 'row0')}${standing === null ? '' : ` AND id NOT IN (${standing})`}`,
      binds.values,
    );
    tellTaken(found.map(({ id }) => id));
  }

  /** Fills a table with what differs; it is made the first time. */
  private async workOut(targets: string | undefined): Promise<void> {
    const { transaction, schema, rules, isKept, acting } = this.input;
    const { standing } = this;
    const binds = new Binds();
    const only = {
      ...(targets === undefined ? {} : { targets }),
      ...(acting ? { acting } : {}),
      ...(standing ? { entered: standing } : {}),
    };
    const worked = rollUpSql({ schema, rules, binds, isKept, withKept: true, ...only });
    const anyDiffers = rules.map((_, at) => differsSql(at)).join(' OR ');
    const anyKept = rules.flatMap((rule, at) => keptDiffersSql(rule, at) ?? []);
    const each = rules.map((_, at) => `${differsSql(at)} AS differs${at}`);
    const query = `SELECT *, (${anyDiffers}) AS is_changed, ${each.join(', ')} FROM (${worked}) w WHERE ${[anyDiffers, ...anyKept].join(' OR ')}`;
    const name = quote(this.#differing);
    if (this.#isMade) {
      await run(transaction, `TRUNCATE pg_temp.${name}`);
      await run(transaction, `INSERT INTO pg_temp.${name} ${query}`, binds.values);
    } else await makeTable(transaction, { name: this.#differing, query, binds });
    this.#isMade = true;
    await this.refuseFailed();
  }

  /** An error in a rule that reacts undoes the run. */
  private async refuseFailed(): Promise<void> {
    const { transaction, schema, rules } = this.input;
    for (const [at, rule] of rules.entries()) {
      if (!isReacting(rule)) continue;
      const title = columnOf(typeIn(schema.model, rule.writes.type).title);
      const [failed] = await run<{ title: string }>(
        transaction,
        `SELECT t.${title} AS title FROM pg_temp.${quote(this.#differing)} d
          JOIN ${tableOf(schema.schema, rule.writes.type)} t ON t.id = d.id WHERE d.after_error${at} IS NOT NULL ORDER BY d.id LIMIT 1`,
      );
      if (failed) throw new Refusal(422, 'rule.reaction', reactionFails(rule, failed.title));
    }
  }
}

/** A record's problems with those of these rules as they are now; NULL where none is left. */
function problemsSql(rules: readonly CompiledRule[], binds: Binds): string {
  const fields = binds.add(
    rules.map(({ writes }) => writes.field),
    'text[]',
  );
  const pairs = rules.map(({ writes }, at) => `${binds.add(writes.field, 'text')}, d.after_error${at}`);
  const now = `jsonb_strip_nulls(jsonb_build_object(${pairs.join(', ')}))`;
  const had = rules
    .map((_, at) => `d.before_error${at} IS NULL AND d.after_error${at} IS NULL`)
    .join(' AND ');
  return `CASE WHEN ${had} THEN t.problems ELSE NULLIF((COALESCE(t.problems, '{}') - ${fields}) || ${now}, '{}') END`;
}

function setsOf(rule: CompiledRule, at: number): string {
  const value = `${columnOf(rule.writes.field)} = d.after${at}`;
  if (isReacting(rule)) return `${value}, ${rowOf(rule)} = d.row${at}`;
  if (isKeptByExtremum(rule)) return `${value}, ${keptColumns(rule.writes.field).leader} = NULL`;
  if (!isKeptByDifference(rule)) return value;
  const { count, sum, errors } = keptColumns(rule.writes.field);
  return `${value}, ${count} = d.count${at}, ${sum} = d.sum${at}, ${errors} = d.errors${at}`;
}

/**
 * Changes and sources of one record: only of the rules whose value differs. Where all do, as when rules are first taken live,
 * each is one object as it is. Elsewhere the others are left out as nulls, which neither changes nor sources have in objects of their
 * own; putting objects together one by one took three times as long.
 */
function ledgerSql(schema: Schema, rules: readonly CompiledRule[], binds: Binds): string {
  const parts = rules.map((rule, at) => {
    const { type, field } = rule.writes;
    const { type: valueType } = fieldIn(schema.model, type, field);
    return {
      ...{ key: binds.add(field, 'text'), differs: `d.differs${at}` },
      change: `jsonb_build_array(${wireSql(valueType, `d.before${at}`)}, ${wireSql(valueType, `d.after${at}`)})`,
    };
  });
  const changes = `jsonb_build_object(${parts.map(({ key, change }) => `${key}, ${change}`).join(', ')})`;
  const sourceOf = (rule: CompiledRule) => ({ wave: 1, ruleVersion: rule.version, causes: [] });
  const document = (source: object) => binds.add(JSON.stringify(source), 'jsonb');
  const sources = document(Object.fromEntries(rules.map((rule) => [rule.writes.field, sourceOf(rule)])));
  if (parts.length === 1) return `${changes}, ${sources}`;
  const all = parts.map(({ differs }) => differs).join(' AND ');
  const some = (sql: (at: number) => string) =>
    `jsonb_strip_nulls(jsonb_build_object(${parts.map(({ key, differs }, at) => `${key}, CASE WHEN ${differs} THEN ${sql(at)} END`).join(', ')}))`;
  return `CASE WHEN ${all} THEN ${changes} ELSE ${some((at) => itemAt(parts, at).change)} END,
    CASE WHEN ${all} THEN ${sources} ELSE ${some((at) => document(sourceOf(itemAt(rules, at))))} END`;
}

/** A column in the form in which it travels; the ledger holds the same from SQL as from the core. */
export function wireSql(type: ValueType, sql: string): string {
  if (type.kind === 'money') {
    return `CASE WHEN ${sql} IS NULL THEN NULL ELSE jsonb_build_object('amount', ${sql}::text, 'currency', '${type.currency}') END`;
  }
  if (type.kind === 'anyMoney')
    return `CASE WHEN ${sql} IS NULL THEN NULL ELSE jsonb_build_object('amount', (${sql}).amount::text, 'currency', (${sql}).currency) END`;
  return type.kind === 'rating' ? sql : readColumn(type, sql);
}
