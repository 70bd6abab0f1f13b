import { createHash } from 'node:crypto';
import { type Expression, inRun, type RunContext, typeCondition } from '@/core/expression';
import { readModel, seenDefinition, type SeenType, type Sight } from '@/core/model';
import { database } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { filterSql } from '@/server/store/rule-sql/expression-sql';
import { RouteJoins } from '@/server/store/rule-sql/route-joins';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { seeSchema, tableOf, type ValuePlaces } from '@/server/store/sql/sql';
import { keepsField } from '@/server/store/write/keeps-field';

/** Values written into the text, quoted by Sequelize: what is seen stands within statements of any numbering. */
class Written implements ValuePlaces {
  add(value: unknown, type: string): string {
    if (value === null || value === undefined) return `NULL::${type}`;
    if (Array.isArray(value)) {
      const items = value.map((one) => database().escape(String(one)));
      return `(ARRAY[${items.join(', ')}]::text[])::${type}`;
    }
    return `${database().escape(String(value))}::${type}`;
  }
}

const known = new WeakMap<LoadedWorkspace, Map<string, LoadedWorkspace>>();

/**
 * A workspace as somebody knows it who sees only a part: its model has no more, and its tables hold no other records. Whatever looks at it by `tableOf` finds
 * nothing else, in lists, by filters, sorting and searching, or up its links; what looks at anything else of it fails.
 */
export function seenWorkspace(whole: LoadedWorkspace, sight: Sight): LoadedWorkspace {
  let views = known.get(whole);
  if (!views) known.set(whole, (views = new Map<string, LoadedWorkspace>()));
  const key = createHash('sha256')
    .update(JSON.stringify([...sight]))
    .digest('base64url');
  let view = views.get(key);
  if (!view) {
    view = made(whole, sight, key);
    views.set(key, view);
  }
  // Also what was forgotten meanwhile of very many.
  seeSchema(view.schema, (type) => tableSeen(whole, sight, type));
  return view;
}

function made(whole: LoadedWorkspace, sight: Sight, key: string): LoadedWorkspace {
  const { types, lists, selections, ruleDefaults, settledDay, timeZone } = whole.model;
  const given = {
    types,
    ...(lists ? { lists } : {}),
    ...(selections ? { selections } : {}),
    ...(ruleDefaults ? { ruleDefaults } : {}),
  };
  const definition = seenDefinition(
    given,
    sight,
    ({ type, condition }, seen) =>
      typeCondition(readModel({ ...seen, timeZone }, settledDay), type, condition).ok,
  );
  return {
    ...whole,
    sight,
    schema: `${whole.schema} as seen ${whole.epoch} ${key}`,
    model: readModel({ ...definition, timeZone }, settledDay),
  };
}

function tableSeen(whole: LoadedWorkspace, sight: Sight, type: string): string {
  const seen = sight.get(type);
  const table = tableOf(whole.schema, type);
  if (seen === null) throw new RangeError('A type that is hidden isn’t asked for');
  if (!seen?.where) return table;
  const binds = new Written();
  const routes = new RouteJoins({
    ...{ schema: whole, from: type, alias: 'own', binds, isKept: keepsField(whole.plan) },
    prefix: 'seen_',
  });
  const who = { person: null, moment: '', ...(seen.me === undefined ? {} : { me: seen.me }) };
  const parts = seen.where.map((where) => conditionSql(whole, type, where, who, routes, binds));
  return `(SELECT own.* FROM ${table} own ${routes.sql()} WHERE ${parts.join(' OR ')})`;
}

function conditionSql(
  { model }: LoadedWorkspace,
  type: string,
  where: Expression,
  who: RunContext,
  routes: RouteJoins,
  binds: ValuePlaces,
): string {
  const typed = typeCondition(model, type, where, { usesRunContext: 'me' });
  if (typed.ok) return `(${filterSql(inRun(typed.value, who), routes, binds)})`;
  // A selection that was changed since, or a field that is gone: then nothing is seen, rather than all.
  return 'false';
}

/** What somebody may with records of a type; `undefined`: all. */
export const seenTypeOf = ({ sight }: LoadedWorkspace, type: string): SeenType | null | undefined =>
  sight?.get(type);

/** Refuses what one may not do with records of a type, of which one sees a part. */
export function checkMay(
  workspace: LoadedWorkspace,
  type: string,
  what: 'add' | 'change' | 'delete' | 'export',
): void {
  const seen = seenTypeOf(workspace, type);
  if (seen === undefined || seen?.[what]) return;
  const name = workspace.model.type(type)?.plural ?? 'these';
  const words = { add: 'add', change: 'change', delete: 'delete', export: 'take out' }[what];
  throw new Refusal(
    403,
    'sight.part',
    `What you are here doesn’t let you ${words} ${name}. Ask somebody who administers the workspace.`,
  );
}
