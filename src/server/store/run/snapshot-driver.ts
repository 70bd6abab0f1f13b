import { writeCount } from '@/core/values';
import {
  type Answer,
  answerInMemory,
  MemoryStore,
  type Need,
  Overlay,
  recordKey,
  type RecordRef,
  type RecordStore,
  type Row,
  type DeletionMembers,
} from '@/core/engine';
import { nextSerial } from '@/server/store/write/serials';
import { routeKey, type Step, stepKey, stepsUp, typeAlong } from '@/core/model';
import {
  type AnyCompiled,
  type CompiledRollUp,
  type CompiledSource,
  isCreate,
  isReacting,
  type Read,
} from '@/core/rules';
import type { Transaction } from 'sequelize';
import { Refusal } from '@/server/refusal';
import { readMade } from '@/server/store/write/created-records';
import { readDeletionMembers } from '@/server/store/write/deletion-members';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { type SnapshotReads, readsNow } from './snapshot-reads';

/** Most records that a rehearsal loads. */
export const MOST_LOADED = 20_000;

/**
 * Answers needs for a rehearsal on the real data: loads what a need asks for into memory, as one snapshot of the database
 * shows it, and lets the driver in memory answer over an overlay. Takes no row locks and writes nothing.
 */
export class SnapshotDriver {
  readonly overlay: Overlay;
  readonly #store: MemoryStore;
  readonly #loaded = new Set<string>();
  #count = 0;

  constructor(
    private readonly workspace: LoadedWorkspace,
    private readonly transaction: Transaction,
    /** Where records come from: as they stand now, unless they are wanted otherwise. */
    private readonly reads: SnapshotReads = readsNow(transaction, workspace),
  ) {
    this.#store = new MemoryStore(workspace.model, true);
    this.overlay = new Overlay(workspace.model, this.#store);
  }

  /** The records as they are stored, as far as they were loaded. */
  get stored(): RecordStore {
    return this.#store;
  }

  async answer(need: Need): Promise<Answer> {
    if (need.kind === 'records') await this.load(need.set.type, need.set.ids);
    if (need.kind === 'related') await this.loadChildren(need.link.type, need.link.link, need.parents.ids);
    if (need.kind === 'above') await this.loadAbove(need.set.type, need.link.link, need.set.ids);
    if (need.kind === 'deletionMembers') return this.deletionMembers(need.roots);
    if (need.kind === 'holders') this.put(await this.reads.holders(need));
    if (need.kind === 'serials') return nextSerial(this.transaction, this.workspace.schema, need);
    if (need.kind === 'candidates') await this.loadInputs(need.rule, need.targets.ids);
    if (need.kind === 'made') await this.loadMade(need);
    if (need.kind === 'everything') await this.loadType(need.type);
    if (need.kind === 'workOut')
      for (const { rule, targets } of need.work) await this.loadInputs(rule, targets.ids);
    return answerInMemory(this.workspace.model, this.overlay, need);
  }

  /** Loads all that a rule reads for its targets, over the steps of its paths. */
  async loadInputs(rule: AnyCompiled, targets: readonly string[]): Promise<void> {
    const { type } = rule.writes;
    await this.load(type, targets);
    const rows = targets.flatMap((id) => this.overlay.row(type, id) ?? []);
    const paths = rule.reads.map(({ path }) => path);
    if (rule.rates) await this.loadType(rule.rates.type);
    await this.loadPaths(type, rows, paths);
    for (const { path, field, isAllUp } of rule.reads)
      if (isAllUp) await this.loadTop(type, rows, path, field);
    if (!isCreate(rule) && rule.among) {
      await this.loadType(rule.among.type);
      await this.loadPaths(
        rule.among.type,
        [...this.overlay.rows(rule.among.type)],
        rule.among.reads.map(({ path }) => path),
      );
    }
    if (isCreate(rule) || !isReacting(rule)) return;
    // What its result was before: over the records as they are stored.
    const before = targets.flatMap((id) => this.#store.row(type, id) ?? []);
    await this.loadPaths(type, before, paths, this.#store);
  }

  private async loadMade(need: Extract<Need, { kind: 'made' }>): Promise<void> {
    const known = new Set(this.#store.notes.made(need.rule.id, need.by, need.ids).map(({ made }) => made));
    for (const { source, made, isTakenBack } of await readMade(this.transaction, this.workspace, need))
      if (!known.has(made))
        this.#store.notes.noteMade(need.rule.id, source, { type: need.rule.makes, id: made }, isTakenBack);
  }

  /** All that lies above the records at the end of a way up, over a link of their type to itself. */
  private async loadTop(
    type: string,
    rows: readonly Row[],
    path: readonly Step[],
    link: string,
  ): Promise<void> {
    let here = rows;
    for (const [at, step] of path.entries())
      here = await this.loadStep(
        typeAlong(this.workspace.model, type, path.slice(0, at + 1)),
        step,
        here,
        this.overlay,
      );
    const [end] = here;
    if (end)
      await this.loadAbove(
        end.type,
        link,
        here.map(({ id }) => id),
      );
  }

  /** A record that was read already. */
  know(row: Row): void {
    this.put([row]);
    this.#loaded.add(recordKey(row));
  }

  /** Loads the records up the links of targets that a rule reads. */
  async loadOwn(rule: CompiledRollUp, targets: readonly Row[]): Promise<void> {
    const isUp = ({ path }: Read) => path.every(({ direction }) => direction === 'up');
    const paths = rule.reads.filter(isUp).map(({ path }) => path);
    await this.loadPaths(rule.writes.type, targets, paths);
  }

  /** Loads the records up the links of a source's members that a rule reads, and those between them and the target. */
  async loadAround(rule: CompiledRollUp, source: CompiledSource, members: readonly Row[]): Promise<void> {
    const beneath = source.route.length;
    if (rule.rates) await this.loadType(rule.rates.type);
    const paths = rule.reads.flatMap(({ path }) =>
      routeKey(path.slice(0, beneath)) === source.key ? [path.slice(beneath)] : [],
    );
    await this.loadPaths(source.type, members, [...paths, source.definition.route.slice(beneath)]);
    const above = stepsUp(
      source.route
        .slice(1)
        .map(({ link }) => link)
        .reverse(),
    );
    await this.loadPaths(source.type, members, [above]);
  }

  /** Each place that paths have in common is loaded once. */
  private async loadPaths(
    type: string,
    rows: readonly Row[],
    paths: readonly (readonly Step[])[],
    store: RecordStore = this.overlay,
  ): Promise<void> {
    const steps = new Map<string, { step: Step; rest: (readonly Step[])[] }>();
    for (const [step, ...rest] of paths) {
      if (!step) continue;
      const known = steps.get(stepKey(step));
      if (known) known.rest.push(rest);
      else steps.set(stepKey(step), { step, rest: [rest] });
    }
    for (const { step, rest } of steps.values()) {
      const next = typeAlong(this.workspace.model, type, [step]);
      await this.loadPaths(next, await this.loadStep(next, step, rows, store), rest, store);
    }
  }

  private async loadStep(
    next: string,
    step: Step,
    rows: readonly Row[],
    store: RecordStore,
  ): Promise<readonly Row[]> {
    if (step.direction === 'down') {
      let parents = rows.map(({ id }) => id);
      const found = new Map<string, Row>();
      do {
        await this.loadChildren(step.type, step.link, parents);
        const children = parents.flatMap((parent) => [...store.childRows(step, parent)]);
        parents = children.flatMap(({ id }) => (found.has(id) ? [] : [id]));
        for (const row of children) found.set(row.id, row);
      } while (step.isAllTheWay && parents.length > 0);
      return [...found.values()];
    }
    const ids = rows.flatMap((row) => {
      const id = row.values[step.link];
      return typeof id === 'string' ? [id] : [];
    });
    await this.load(next, ids);
    return [...new Set(ids)].flatMap((id) => store.row(next, id) ?? []);
  }

  async load(type: string, ids: readonly string[]): Promise<void> {
    const wanted = [...new Set(ids)].filter((id) => !this.#loaded.has(`${type} ${id}`));
    if (wanted.length > 0) this.put(await this.reads.rows(type, wanted));
    for (const id of wanted) this.#loaded.add(`${type} ${id}`);
  }

  private async loadChildren(type: string, link: string, parents: readonly string[]): Promise<void> {
    const wanted = [...new Set(parents)].filter((id) => !this.#loaded.has(`${type}.${link} ${id}`));
    if (wanted.length > 0) this.put(await this.reads.children({ type, link }, wanted, MOST_LOADED + 1));
    for (const id of wanted) this.#loaded.add(`${type}.${link} ${id}`);
  }

  /** A record that is loaded says nothing of what lies above it: the way leads on through it. */
  private async loadAbove(type: string, link: string, ids: readonly string[]): Promise<void> {
    const walked = new Set(ids);
    for (let level: readonly string[] = ids; level.length > 0;) {
      await this.load(type, level);
      level = level.flatMap((id) => {
        const next = this.overlay.row(type, id)?.values[link];
        if (typeof next !== 'string' || walked.has(next)) return [];
        walked.add(next);
        return [next];
      });
    }
  }

  /** What stored deletions took along, and those of this rehearsal. */
  private async deletionMembers(roots: readonly RecordRef[]): Promise<DeletionMembers> {
    const stored = await readDeletionMembers(this.transaction, this.workspace, roots);
    const own = this.overlay.notes.deletionMembers(roots);
    return { records: [...stored.records, ...own.records], cleared: [...stored.cleared, ...own.cleared] };
  }

  private async loadType(type: string): Promise<void> {
    await this.load(type, await this.reads.all(type, MOST_LOADED + 1));
  }

  /** A row that is there already stays, so that nothing loaded twice changes under the overlay. */
  private put(rows: readonly Row[]): void {
    for (const row of rows) {
      if (this.#store.row(row.type, row.id)) continue;
      this.#store.put(row);
      this.#count += 1;
    }
    if (this.#count <= MOST_LOADED) return;
    const message = `This rehearsal would load more than ${writeCount(MOST_LOADED)} records. Rehearse it on a sample family, or stage fewer edits.`;
    throw new Refusal(422, 'rehearsal.size', message);
  }
}
