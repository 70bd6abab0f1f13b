import type { Model } from '@/core/model';
import { compareText } from '@/core/values';
import { type GroupKey, MOST_TOLD, type RippleGroup } from '@/core/verify';
import type { RunGroups } from '@/core/api';
import type { Transaction } from 'sequelize';
import { inSnapshot } from '@/server/store/session/transactions';
import { quote, run, tableOf } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import {
  fieldName,
  type LedgerWords,
  loggedValue,
  pluralOf,
  readLedgerWords,
  typeName,
} from './ledger-words';
import { findRun } from './runs';
import { Wanted } from '@/server/store/session/titles';

/** Values that a run changed, one a row; amounts as numbers where the field holds them by the model as it is. */
function changedValues(schema: string, model: Model): { readonly sql: string; readonly amounts: string[] } {
  const amounts = model.types.flatMap(({ key, fields }) =>
    fields.flatMap(({ key: field, type }) =>
      type.kind === 'number' || type.kind === 'money' ? [`${key}.${field}`] : [],
    ),
  );
  const amountOf = (value: string) =>
    `COALESCE(CASE WHEN jsonb_typeof(${value}) = 'object' THEN ${value} ->> 'amount' ELSE ${value} #>> '{}' END, '0')::numeric`;
  const sql = `SELECT l.type, l.record, c.key AS field, c.value -> 0 AS before, c.value -> 1 AS after,
      COALESCE((l.sources -> c.key ->> 'wave')::int, 0) AS wave, v.rule,
      CASE WHEN l.type || '.' || c.key = ANY($2::text[])
          AND (jsonb_typeof(c.value -> 0) <> 'object' OR jsonb_typeof(c.value -> 1) <> 'object' OR c.value -> 0 -> 'currency' = c.value -> 1 -> 'currency')
        THEN ${amountOf('(c.value -> 1)')} - ${amountOf('(c.value -> 0)')} END AS difference
    FROM ${quote(schema)}._ledger l CROSS JOIN LATERAL jsonb_each(l.changes) c
    LEFT JOIN ${quote(schema)}._rule_version v ON v.id = (l.sources -> c.key ->> 'ruleVersion')::uuid
    WHERE l.run = $1`;
  return { sql, amounts };
}

interface Found {
  readonly wave: number;
  readonly type: string;
  readonly field: string;
  readonly rule: string | null;
}

interface FoundGroup extends Found {
  readonly kind: GroupKey['kind'];
  readonly name: string | null;
  readonly rule_kind: NonNullable<GroupKey['rule']>['kind'] | null;
  readonly records: number;
  readonly ways: number;
  readonly measured: number;
  readonly larger: number;
  readonly smaller: number;
}

interface FoundWay extends Found {
  readonly before: unknown;
  readonly after: unknown;
  readonly records: number;
}

interface FoundSample extends Found {
  readonly record: string;
  readonly before: unknown;
  readonly after: unknown;
}

const keyOf = ({ wave, type, field, rule }: Found): string => [wave, type, field, rule ?? ''].join(' ');

/** A run of any size, summed up: what is alike in it, wave by wave, as `groupedChanges` puts it together. */
export function runGroups(workspace: LoadedWorkspace, id: string): Promise<RunGroups> {
  return inSnapshot(async (transaction) => {
    await findRun(transaction, workspace, id);
    const fields = await fieldGroups(transaction, workspace, id);
    const events = await eventGroups(transaction, workspace, id);
    return {
      groups: [...events, ...fields].sort(
        (a, b) =>
          a.wave - b.wave ||
          Number(a.kind === 'field') - Number(b.kind === 'field') ||
          b.records - a.records ||
          compareText(`${a.plural} ${a.fieldName}`, `${b.plural} ${b.fieldName}`),
      ),
    };
  });
}

async function fieldGroups(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  id: string,
): Promise<RippleGroup[]> {
  const { model, schema } = workspace;
  const { sql, amounts } = changedValues(schema, model);
  const values = [id, amounts];
  const groups = await run<FoundGroup>(
    transaction,
    `SELECT x.wave, 'field' AS kind, x.type, x.field, x.rule::text AS rule, r.name, w.definition ->> 'kind' AS rule_kind,
        count(*)::int AS records, count(DISTINCT (x.before, x.after))::int AS ways, count(x.difference)::int AS measured,
        count(*) FILTER (WHERE x.difference > 0)::int AS larger, count(*) FILTER (WHERE x.difference < 0)::int AS smaller
      FROM (${sql}) x LEFT JOIN ${quote(schema)}._rule r ON r.id = x.rule LEFT JOIN ${quote(schema)}._rule_version w ON w.id = r.latest_version
      GROUP BY x.wave, x.type, x.field, x.rule, r.name, rule_kind`,
    values,
  );
  const ways = await run<FoundWay>(
    transaction,
    `SELECT * FROM (
        SELECT wave, type, field, rule::text AS rule, before, after, count(*)::int AS records,
          row_number() OVER (PARTITION BY wave, type, field, rule ORDER BY count(*) DESC, before::text COLLATE "C", after::text COLLATE "C") AS place
        FROM (${sql}) x GROUP BY wave, type, field, rule, before, after) y
      WHERE place <= ${MOST_TOLD} ORDER BY place`,
    values,
  );
  const samples = await run<FoundSample>(
    transaction,
    `SELECT wave, type, field, rule::text AS rule, record::text AS record, before, after FROM (
        SELECT *, row_number() OVER (PARTITION BY wave, type, field, rule ORDER BY abs(COALESCE(difference, 0)) DESC, record) AS place
        FROM (${sql}) x) y
      WHERE place <= ${MOST_TOLD} ORDER BY place`,
    values,
  );
  const wanted = new Wanted();
  for (const { type, record } of samples) wanted.add(type, record);
  const words = await readLedgerWords(
    transaction,
    workspace,
    [...ways, ...samples].map(({ type, field, before, after }) => ({
      ...{ type, changes: { [field]: [before, after] as const }, sources: {} },
    })),
    wanted,
  );
  return groups.map((group) => groupView(model, group, { ways, samples, words }));
}

function groupView(
  model: Model,
  group: FoundGroup,
  {
    ways,
    samples,
    words,
  }: { ways: readonly FoundWay[]; samples: readonly FoundSample[]; words: LedgerWords },
): RippleGroup {
  const { wave, kind, type, field, records, measured, larger, smaller } = group;
  const view = (value: unknown) => loggedValue(model, { type, field }, value, words);
  const pair = ({ before, after }: { readonly before: unknown; readonly after: unknown }) => ({
    ...{ before: view(before), after: view(after) },
  });
  const isOwn = (one: Found) => keyOf(one) === keyOf(group);
  return {
    ...{ wave, kind, type, field, records, problems: 0, ways: group.ways },
    ...{ typeName: typeName(model, type), plural: pluralOf(model, type) },
    fieldName: fieldName(model, type, field),
    rule: writerOf(group),
    becomes: ways.filter(isOwn).map((way) => ({ ...pair(way), records: way.records })),
    amounts: measured > 0 ? { larger, smaller } : null,
    samples: samples.filter(isOwn).map((sample) => ({
      ...{ id: sample.record, title: words.titles[sample.record] ?? '' },
      ...pair(sample),
    })),
  };
}

/** The pace that a rule had then isn't kept with the run. */
const writerOf = ({ rule, name, rule_kind: kind }: FoundGroup): RippleGroup['rule'] =>
  rule !== null && name !== null && kind !== null ? { id: rule, name, kind, pace: null } : null;

/** Records that were made, deleted or restored. */
async function eventGroups(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  id: string,
): Promise<RippleGroup[]> {
  const { model, schema } = workspace;
  const s = quote(schema);
  type Event = FoundGroup & { readonly ids: readonly string[] };
  const ids = (of: string) => `(array_agg(${of}::text ORDER BY ${of}))[1:${MOST_TOLD}] AS ids`;
  const found = await run<Event>(
    transaction,
    `SELECT COALESCE((l.sources -> '' ->> 'wave')::int, 0) AS wave, l.event AS kind, l.type, '' AS field, r.id::text AS rule, r.name,
        w.definition ->> 'kind' AS rule_kind, count(*)::int AS records, ${ids('l.record')}
      FROM ${s}._ledger l LEFT JOIN ${s}._rule_version v ON v.id = (l.sources -> '' ->> 'ruleVersion')::uuid
      LEFT JOIN ${s}._rule r ON r.id = v.rule LEFT JOIN ${s}._rule_version w ON w.id = r.latest_version
      WHERE l.run = $1 AND l.event <> 'changed' GROUP BY 1, 2, 3, r.id, r.name, rule_kind`,
    [id],
  );
  const made: Event[] = [];
  for (const { key } of model.types)
    made.push(
      ...(await run<Event>(
        transaction,
        `SELECT COALESCE(m.wave, 0) AS wave, 'created' AS kind, $2::text AS type, '' AS field, r.id::text AS rule, r.name,
            w.definition ->> 'kind' AS rule_kind, count(*)::int AS records, ${ids('t.id')}
          FROM ${tableOf(schema, key)} t LEFT JOIN ${s}._made_ever m ON m.made = t.id AND m.run = $1
          LEFT JOIN ${s}._rule r ON r.id = m.rule LEFT JOIN ${s}._rule_version w ON w.id = r.latest_version
          WHERE t.created_run = $1 GROUP BY 1, r.id, r.name, rule_kind`,
        [id, key],
      )),
    );
  const wanted = new Wanted();
  for (const { type, ids: records } of [...found, ...made])
    for (const record of records) wanted.add(type, record);
  const words = await readLedgerWords(transaction, workspace, [], wanted);
  return [...made, ...found].map((event) => {
    const { wave, kind, type, records } = event;
    return {
      ...{ wave, kind, type, field: '', fieldName: '', records, problems: 0, becomes: [], ways: 0 },
      ...{ typeName: typeName(model, type), plural: pluralOf(model, type), amounts: null },
      rule: writerOf(event),
      samples: event.ids.map((record) => ({
        ...{ id: record, title: words.titles[record] ?? '', before: null, after: null },
      })),
    };
  });
}
