import type { Row } from '@/core/engine';
import {
  isAllTheWay,
  type LinkRef,
  type Model,
  type Step,
  type StepDown,
  typeAlong,
  typeIn,
} from '@/core/model';
import { type CompiledRule, isCreate } from '@/core/rules';
import { type FamilyData, recordToWire } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { inSnapshot } from '@/server/store/session/transactions';
import { columnOf, run, tableOf } from '@/server/store/sql/sql';
import { FIRST_DAY, shiftDay, itemAt, valueAt } from '@/core/values';
import { readMade } from '@/server/store/write/created-records';
import { readChildren, readRows } from '@/server/store/sql/columns';
import { currentWorkspace, type LoadedWorkspace } from '@/server/store/session/workspace';
import { findRow, namesFor } from './records';

/** Most records that a family has, and most that are loaded around it. */
export interface FamilyLimits {
  readonly members: number;
  readonly around: number;
}

/** What is loaded of a family. */
export interface FamilyWanted extends FamilyLimits {
  /** The links down that are followed (`loan.exhibition`); `null` for all. */
  readonly links: readonly string[] | null;
  /** Types of which all records are brought along: those among which a rule that isn't live yet finds some. */
  readonly whole?: readonly string[];
}

const SHOWN: FamilyWanted = { members: 2_000, around: 5_000, links: null };

/**
 * A record and everything beneath it, over all links down; and around it what its kept values, and those of the parents that
 * its members change, are made of. Where a limit is reached the children are left out as a whole, so that their parent's
 * values count as outside rather than as a number that is wrong.
 */
export function getFamily(
  known: LoadedWorkspace,
  type: string,
  id: string,
  whole: readonly string[] = [],
): Promise<FamilyData> {
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    return familyOf(transaction, workspace, { type, id }, { ...SHOWN, whole });
  });
}

/** The same within a transaction, up to limits, over some links. */
export async function familyOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  { type, id }: { readonly type: string; readonly id: string },
  wanted: FamilyWanted,
): Promise<FamilyData> {
  const root = await findRow(transaction, workspace, type, id);
  return new FamilyLoader(workspace, transaction, wanted).load(root);
}

/** Most rates that a family brings along: those of the latest days. */
const MOST_RATES = 2_000;
/** Most records of a type of which all are brought along. */
const MOST_WHOLE = 2_000;

class FamilyLoader {
  readonly #rows = new Map<string, Row>();
  readonly #complete = new Map<string, LinkRef & { parent: string }>();
  readonly #model: Model;

  constructor(
    private readonly workspace: LoadedWorkspace,
    private readonly transaction: Transaction,
    private readonly wanted: FamilyWanted,
  ) {
    this.#model = workspace.model;
  }

  async load(root: Row): Promise<FamilyData> {
    this.put([root]);
    await this.loadBeneath(root);
    const members = [...this.#rows.keys()];
    await this.loadAbove();
    await this.loadParts(new Set(members));
    for (const rule of this.workspace.plan.rules) await this.loadAround(rule, new Set(members));
    await this.loadAbove();
    const made = await this.loadMade();
    const whole = await this.loadWhole();
    const ratesSince = await this.loadRates();
    const rows = [...this.#rows.values()];
    return {
      ...{ root: { type: root.type, id: root.id }, members, complete: [...this.#complete.values()] },
      records: rows.map((row) => recordToWire(this.#model, row)),
      names: await namesFor(this.transaction, this.workspace, rows),
      ...(made.length > 0 ? { made } : {}),
      ...(whole.length > 0 ? { whole } : {}),
      ...(ratesSince === null ? {} : { ratesSince }),
    };
  }

  /** What live rules made for records that are here, or the records for which they made these. */
  private async loadMade(): Promise<NonNullable<FamilyData['made']>> {
    const all: NonNullable<FamilyData['made']>[number][] = [];
    for (const rule of this.workspace.plan.turns.filter(isCreate)) {
      const of = (type: string) => this.ofType(type).map(({ id }) => id);
      const asked = [
        await readMade(this.transaction, this.workspace, { rule, by: 'source', ids: of(rule.writes.type) }),
        await readMade(this.transaction, this.workspace, { rule, by: 'made', ids: of(rule.makes) }),
      ];
      const found = new Map(asked.flat().map((one) => [one.made, one]));
      await this.loadRows(rule.makes, [...found.keys()]);
      await this.loadRows(
        rule.writes.type,
        [...found.values()].map(({ source }) => source),
      );
      for (const one of found.values())
        if (this.#rows.has(one.made)) all.push({ ...one, rule: rule.id, type: rule.makes });
    }
    return all;
  }

  /** The latest rates, and the day from which on they are all here; `null` where there is no type of them. */
  private async loadRates(): Promise<string | null> {
    const { rates } = this.#model;
    if (!rates) return null;
    const [table, day] = [tableOf(this.workspace.schema, rates.type), columnOf(rates.day)];
    const [last] = await run<{ day: string }>(
      this.transaction,
      `SELECT ${day}::text AS day FROM ${table} WHERE deleted_run IS NULL AND ${day} IS NOT NULL
        ORDER BY ${day} DESC OFFSET ${MOST_RATES} LIMIT 1`,
    );
    const found = await run<{ id: string }>(
      this.transaction,
      `SELECT id::text FROM ${table} WHERE deleted_run IS NULL AND ${day} > $1::date`,
      [last?.day ?? '0001-01-01'],
    );
    const ids = found.map(({ id }) => id).filter((id) => !this.#rows.has(id));
    this.put(await readRows(this.transaction, this.workspace, rates.type, ids));
    return last ? (shiftDay(last.day, 1) ?? last.day) : FIRST_DAY;
  }

  /**
   * What members are made of, or used in, over a bridge of their type with itself, at any distance: a rule that goes all the way down is
   * worked out there first, also one that isn't live yet.
   */
  private async loadParts(members: ReadonlySet<string>): Promise<void> {
    for (const { key, bridge } of this.#model.types) {
      const [one, other] = this.#model.linksFrom(key);
      if (!bridge || !one || !other || one.parent !== other.parent) continue;
      for (const [down, up] of [
        [one, other],
        [other, one],
      ] as const) {
        const seen = new Set(members);
        let level = this.ofType(one.parent).filter(({ id }) => members.has(id));
        while (level.length > 0) {
          const uses = await this.stepDown({ type: key, link: down.link }, level);
          const parts = await this.stepUp(one.parent, up.link, uses);
          level = parts.filter(({ id }) => !seen.has(id));
          for (const { id } of level) seen.add(id);
        }
      }
    }
  }

  /**
   * The targets of a rule that records of the family can change, and what these are made of: back over the steps of what the rule
   * reads to its targets, and from there all that it reads. What lies above over a self link is reached too.
   */
  private async loadAround(rule: CompiledRule, members: ReadonlySet<string>): Promise<void> {
    const { type } = rule.writes;
    const targets = new Set(this.ofType(type).flatMap(({ id }) => (members.has(id) ? [id] : [])));
    for (const { path, field, isAllUp } of rule.reads) {
      const end = typeAlong(this.#model, type, path);
      let here: readonly Row[] = this.ofType(end).filter(({ id }) => members.has(id));
      if (isAllUp) here = await this.climb({ type: end, link: field }, here, 'down');
      for (let at = path.length - 1; at >= 0 && here.length > 0; at -= 1)
        here = await this.back(typeAlong(this.#model, type, path.slice(0, at)), itemAt(path, at), here);
      for (const { id } of here) targets.add(id);
    }
    let rows = [...targets].map((id) => valueAt(this.#rows, id));
    const { recursion } = rule;
    for (let above = rows; recursion && !recursion.up && above.length > 0;) {
      const next = await this.stepUp(type, recursion.down.link, above);
      above = next.filter(({ id }) => !targets.has(id));
      for (const { id } of above) targets.add(id);
      rows = [...rows, ...above];
    }
    for (const { path, field, isAllUp } of rule.reads) {
      let here: readonly Row[] = rows;
      for (const [at, step] of path.entries())
        here =
          step.direction === 'down'
            ? await this.down(step, here)
            : await this.stepUp(typeAlong(this.#model, type, path.slice(0, at + 1)), step.link, here);
      if (isAllUp) await this.climb({ type: typeAlong(this.#model, type, path), link: field }, here, 'up');
    }
  }

  /** Over a step down, where it goes so all the way. */
  private async down(step: StepDown, rows: readonly Row[]): Promise<Row[]> {
    const next = await this.stepDown(step, rows);
    return step.isAllTheWay ? this.climb(step, next, 'down') : next;
  }

  /** Back over a step, of one that goes all the way to all from which it does. */
  private async back(type: string, step: Step, rows: readonly Row[]): Promise<readonly Row[]> {
    const next = await this.stepBack(type, step, rows);
    return isAllTheWay(step) ? this.climb(step, next, 'up') : next;
  }

  /** All that lies beneath records over a link of their type to itself, or above them; they are among it. */
  private async climb(link: LinkRef, rows: readonly Row[], way: 'up' | 'down'): Promise<Row[]> {
    const all = new Map(rows.map((row) => [row.id, row]));
    for (let level = rows; level.length > 0;) {
      const next =
        way === 'up' ? await this.stepUp(link.type, link.link, level) : await this.stepDown(link, level);
      level = next.filter(({ id }) => !all.has(id));
      for (const row of level) all.set(row.id, row);
    }
    return [...all.values()];
  }

  /** Types of which links find records: all of these are brought along, where they aren't too many. */
  private async loadWhole(): Promise<string[]> {
    const wanted = new Set(this.wanted.whole ?? []);
    for (const { among } of this.workspace.plan.rules) if (among) wanted.add(among.type);
    const whole: string[] = [];
    for (const type of wanted) {
      if (!this.#model.type(type)) continue;
      const found = await run<{ id: string }>(
        this.transaction,
        `SELECT id::text FROM ${tableOf(this.workspace.schema, type)} WHERE deleted_run IS NULL LIMIT ${MOST_WHOLE + 1}`,
      );
      if (found.length > MOST_WHOLE) continue;
      const missing = found.map(({ id }) => id).filter((id) => !this.#rows.has(id));
      this.put(await readRows(this.transaction, this.workspace, type, missing));
      whole.push(type);
    }
    return whole;
  }

  /** From the far side of a step to the records on its near side. */
  private stepBack(near: string, step: Step, rows: readonly Row[]): Promise<Row[]> {
    return step.direction === 'down'
      ? this.stepUp(near, step.link, rows)
      : this.stepDown({ type: near, link: step.link }, rows);
  }

  private async stepUp(type: string, link: string, rows: readonly Row[]): Promise<Row[]> {
    const ids = new Set(
      rows.flatMap(({ values }) => (typeof values[link] === 'string' ? [values[link]] : [])),
    );
    await this.loadRows(type, [...ids]);
    return [...ids].flatMap((id) => this.#rows.get(id) ?? []);
  }

  private async stepDown(link: LinkRef, rows: readonly Row[]): Promise<Row[]> {
    const parents = new Set(rows.map(({ id }) => id));
    await this.loadChildren(link, [...parents], this.wanted.members + this.wanted.around);
    return this.ofType(link.type).filter(({ values }) => parents.has(values[link.link] as string));
  }

  /** Level by level; a type is gone into once, so that links in a circle end. */
  private async loadBeneath(root: Row): Promise<void> {
    const seen = new Set<string>();
    let level: readonly Row[] = [root];
    while (level.length > 0) {
      const next: Row[] = [];
      for (const type of new Set(level.map((row) => row.type))) {
        seen.add(type);
        const parents = level.filter((row) => row.type === type).map((row) => row.id);
        for (const link of this.#model.linksTo(type)) {
          if (seen.has(link.type) && link.type !== type) continue;
          if (this.wanted.links && !this.wanted.links.includes(`${link.type}.${link.link}`)) continue;
          next.push(...(await this.loadChildren(link, parents, this.wanted.members)));
        }
      }
      level = next;
    }
  }

  /** What members link to, two levels up: conditions read there, and links are shown by title. */
  private async loadAbove(): Promise<void> {
    for (let level = 0; level < 2; level += 1) {
      for (const { key } of this.#model.types) {
        for (const { link, parent } of this.#model.linksFrom(key)) {
          const ids = this.ofType(key).flatMap((row) =>
            typeof row.values[link] === 'string' ? [row.values[link] as string] : [],
          );
          await this.loadRows(parent, ids);
        }
      }
    }
  }

  private ofType(type: string): Row[] {
    return [...this.#rows.values()].filter((row) => row.type === typeIn(this.#model, type).key);
  }

  private put(rows: readonly Row[]): void {
    for (const row of rows) this.#rows.set(row.id, row);
  }

  private async loadRows(type: string, ids: readonly string[]): Promise<void> {
    const missing = [...new Set(ids)].filter((id) => !this.#rows.has(id));
    if (this.#rows.size + missing.length > this.wanted.members + this.wanted.around) return;
    this.put(await readRows(this.transaction, this.workspace, type, missing));
  }

  /** Answers the children that weren't here before. */
  private async loadChildren(link: LinkRef, parents: readonly string[], most: number): Promise<Row[]> {
    const missing = [...new Set(parents)].filter(
      (id) => !this.#complete.has(`${link.type}.${link.link} ${id}`),
    );
    const left = most - this.#rows.size;
    if (missing.length === 0 || left <= 0) return [];
    const rows = await readChildren(
      this.transaction,
      this.workspace,
      link.type,
      link.link,
      missing,
      left + 1,
    );
    if (rows.length > left) return [];
    const added = rows.filter((row) => !this.#rows.has(row.id));
    this.put(added);
    for (const parent of missing)
      this.#complete.set(`${link.type}.${link.link} ${parent}`, { type: link.type, link: link.link, parent });
    return added;
  }
}
