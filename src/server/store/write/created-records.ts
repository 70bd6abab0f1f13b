import type { Made, Missing, Need, Proposed, Withdrawn, Write } from '@/core/engine';
import { typeIn } from '@/core/model';
import { rulesById } from '@/core/plan';
import type { AnyCompiled } from '@/core/rules';
import { certain, toWire, valueAt } from '@/core/values';
import type { Transaction } from 'sequelize';
import { type Binds, quote, run, tableOf } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** What a rule made for records, or the records for which it made these; of a record that is in the bin whether it went with its source. */
export async function readMade(
  transaction: Transaction,
  { schema }: Pick<LoadedWorkspace, 'schema'>,
  { rule, by, ids }: Pick<Extract<Need, { kind: 'made' }>, 'rule' | 'by' | 'ids'>,
): Promise<Made[]> {
  if (ids.length === 0) return [];
  return run<Made & Record<string, unknown>>(
    transaction,
    `SELECT m.source::text, m.made::text, COALESCE(t.deleted_with = m.source, false) AS "isTakenBack"
      FROM ${quote(schema)}._made m JOIN ${tableOf(schema, rule.makes)} t ON t.id = m.made
      WHERE m.rule = $1 AND m.${by} = ANY($2::uuid[]) ORDER BY m.made`,
    [rule.id, ids],
  );
}

/** The records that a run made by rules, as part of its last statement, in which `run` is its row. */
export function madeSql({ schema, plan }: LoadedWorkspace, writes: readonly Write[], binds: Binds): string[] {
  const rules = rulesById(plan);
  const made = writes.flatMap(({ id, wave, madeFor }) => {
    const rule = madeFor && rules.get(madeFor.rule);
    if (rule?.kind !== 'create') return [];
    return [
      {
        ...{
          rule: rule.id,
          version: rule.version,
          source_type: rule.writes.type,
          source: certain(madeFor).source,
          made: id,
        },
        ...{ is_once: rule.definition.each === 'once', wave },
      },
    ];
  });
  if (made.length === 0) return [];
  const document = binds.add(JSON.stringify(made), 'jsonb');
  return [
    `made_by AS (INSERT INTO ${quote(schema)}._made (rule, version, source_type, source, made, is_once, wave, run)
      SELECT x.rule, x.version, x.source_type, x.source, x.made, x.is_once, x.wave, run.id
      FROM jsonb_to_recordset(${document}) AS x(rule uuid, version uuid, source_type text, source uuid, made uuid, is_once boolean, wave integer), run)`,
  ];
}

/** How a record of the table `made` (`m`) came about, as the ledger would say it. */
export const MADE_SOURCE = `jsonb_build_object('wave', m.wave, 'ruleVersion', m.version,
  'causes', jsonb_build_array(jsonb_build_object('type', m.source_type, 'id', m.source, 'field', '')))`;

/** No record has this id: it stands for the one that would be made. */
export const NONE = '00000000-0000-0000-0000-000000000000';

/** What is proposed in a run, and what is open no more, as part of its last statement. */
export function proposalsSql(
  { schema, model, plan }: LoadedWorkspace,
  {
    proposals,
    withdrawn,
  }: { readonly proposals: readonly Proposed[]; readonly withdrawn: readonly Withdrawn[] },
  binds: Binds,
): string[] {
  const table = `${quote(schema)}._proposal`;
  const rules = rulesById(plan);
  const stored = proposals.map((one) => {
    const rule = valueAt(rules, one.rule);
    const isOnce = rule.kind !== 'create' || one.kind !== 'make' || rule.definition.each === 'once';
    const types = new Map(typeIn(model, one.type).fields.map(({ key, type }) => [key, type]));
    const content = Object.fromEntries(
      Object.entries(one.values).map(([field, value]) => [field, toWire(valueAt(types, field), value)]),
    );
    return {
      ...{ rule: one.rule, version: rule.version, kind: one.kind, is_single: isOnce, content },
      ...{ source_type: one.source.type, source: one.source.id, target_type: one.type },
      ...{ target: one.target?.id ?? null, missing: one.missing satisfies readonly Missing[] },
      ...{ state: one.isDone ? 'told' : 'open', causes: one.causes },
    };
  });
  const document = (of: readonly unknown[]) => binds.add(JSON.stringify(of), 'jsonb');
  const messages = messagesOf(proposals, rules);
  return [
    ...(messages.length === 0
      ? []
      : [
          `written_to AS (INSERT INTO ${quote(schema)}._message (person, subject, body, run)
            SELECT x.person, x.subject, x.body, run.id
            FROM jsonb_to_recordset(${document(messages)}) AS x(person uuid, subject text, body text), run)`,
        ]),
    ...(withdrawn.length === 0
      ? []
      : [
          `withdrawn AS (UPDATE ${table} p SET state = 'withdrawn', decided_at = clock_timestamp(), decided_run = run.id
            FROM jsonb_to_recordset(${document(withdrawn)}) AS x(rule uuid, source uuid), run
            WHERE p.rule = x.rule AND p.source = x.source AND p.state = 'open')`,
        ]),
    ...(stored.length === 0
      ? []
      : [
          `proposed AS (INSERT INTO ${table} AS p (rule, version, kind, is_single, source_type, source, target_type, target, content, missing, state, causes, run)
            SELECT x.rule, x.version, x.kind, x.is_single, x.source_type, x.source, x.target_type, x.target, x.content, x.missing, x.state, x.causes, run.id
            FROM jsonb_to_recordset(${document(stored)}) AS x(rule uuid, version uuid, kind text, is_single boolean, source_type text, source uuid, target_type text, target uuid, content jsonb, missing jsonb, state text, causes jsonb), run
            ON CONFLICT (rule, source, kind, COALESCE(target, '${NONE}')) WHERE state = 'open' AND is_single
            DO UPDATE SET content = p.content || excluded.content, missing = excluded.missing, version = excluded.version, causes = excluded.causes, run = excluded.run,
              earlier = CASE WHEN p.run = excluded.run THEN p.earlier ELSE jsonb_build_object('content', p.content, 'missing', p.missing, 'version', p.version, 'causes', p.causes, 'run', p.run) END)`,
        ]),
  ];
}

/** One message for each person in charge, whatever the number of rules and records. */
function messagesOf(
  proposals: readonly Proposed[],
  rules: ReadonlyMap<string, AnyCompiled>,
): { person: string; subject: string; body: string }[] {
  const ofPerson = new Map<string, Map<string, { open: number; done: number }>>();
  for (const { rule: id, isDone } of proposals) {
    const rule = rules.get(id);
    const definition = rule?.definition;
    const person = definition && 'tells' in definition ? definition.tells : null;
    if (!rule || !person) continue;
    const counts = ofPerson.get(person) ?? new Map<string, { open: number; done: number }>();
    const known = counts.get(rule.name) ?? { open: 0, done: 0 };
    counts.set(rule.name, { open: known.open + Number(!isDone), done: known.done + Number(isDone) });
    ofPerson.set(person, counts);
  }
  return [...ofPerson].map(([person, counts]) => {
    const sum = (of: 'open' | 'done') => [...counts.values()].reduce((all, one) => all + one[of], 0);
    const [open, done] = [sum('open'), sum('done')];
    const words = (number: number, one: string, many: string) =>
      number === 0 ? [] : [`${number} ${number === 1 ? one : many}`];
    const subject = [
      ...words(open, 'proposal waits for you', 'proposals wait for you'),
      ...words(done, 'thing was done for you to see', 'things were done for you to see'),
    ].join(', ');
    const lines = [...counts].map(
      ([name, { open: waits, done: did }]) =>
        `“${name}”: ${[...words(waits, 'to approve', 'to approve'), ...words(did, 'done already', 'done already')].join(', ')}.`,
    );
    return { person, subject: `${subject}.`, body: `${lines.join('\n')}\nThey stand in Today.` };
  });
}
