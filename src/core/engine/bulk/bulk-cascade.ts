import { typeUp } from '@/core/model';
import { hasRivals, type ReactingCascade, reachOf } from '@/core/rules';
import { firstIn, isError, valueAt, writeCount } from '@/core/values';
import { bulkAssignment, firedIn, followingOf, recipientsFrom } from '@/core/engine/cascade/cascade-firing';
import type { CascadeInput, CascadeSource, Recipients } from '@/core/engine/cascade/cascade-input';
import { alongUpTo, walkRoute } from '@/core/engine/cascade/cascade-reach';
import { recipientsOf, runCascade } from '@/core/engine/cascade/cascade-run';
import {
  ask,
  type Answer,
  type Answers,
  askSet,
  type BulkAssignment,
  type Need,
  rowSet,
  type WorkedOut,
  type Write,
} from '@/core/engine/driver/need';
import { type CellRef, recordKey } from '@/core/engine/driver/record';
import type { ChangedQuery } from '@/core/engine/driver/set-need';
import type { WritePrecedence } from '@/core/engine/edits/write-precedence';
import type { Touched } from '@/core/engine/driver/record';
import { BulkRefused, type BulkState, inChunks, reactionRefused, rowsOver } from './bulk-state';

/** What one part of a rule writes on a record. */
export interface Handed {
  readonly worked: WorkedOut;
  readonly causes: readonly CellRef[];
}

/** How a rule acts: at once, or together with others of a circle. */
export interface Cascading {
  /** On records as they stand, as if what it watches had just been filled. */
  readonly isStanding?: boolean;
  /** In a circle: on which records it has acted before, and where what it would write goes to. */
  readonly inCircle?: {
    readonly acted: Set<string>;
    readonly keep: (handed: readonly Handed[]) => void;
  };
}

/**
 * Most pairs of a record that cascades and one that takes, of a rule by which several may cascade to one: each of these has to be put in order. A
 * bound on purpose: of ten thousand siblings that change at once each would cascade to each.
 */
export const MOST_PAIRS = 2_000_000;

/**
 * What rules that cascade do after a run over many records: the ledger and the run's own records tell what changed. Nobody else saves meanwhile.
 * It looks at a page of records at a time, and answers for each part of a rule how many values it wrote.
 */
export class BulkCascades {
  constructor(private readonly state: BulkState) {}

  *cascade(
    parts: readonly ReactingCascade[],
    how: Cascading = {},
  ): Generator<Need, readonly number[], Answer> {
    const entered = new Map<ReactingCascade, ReadonlySet<string>>();
    for (const rule of parts) entered.set(rule, new Set(yield* askSet<'entered'>({ kind: 'entered', rule })));
    const work = new Work(this.state, parts, how, entered);
    yield* work.run();
    return work.counts;
  }
}

class Work {
  readonly counts: number[];
  readonly #rule: ReactingCascade;
  readonly #acting = new Set<string>();
  readonly #hasRivals: boolean;
  /** What takes something may cascade, too: all is worked out on what stood there before anything of it is written. */
  readonly #isOfItsOwn: boolean;
  readonly #later: Handed[] = [];

  constructor(
    private readonly state: BulkState,
    private readonly parts: readonly ReactingCascade[],
    private readonly how: Cascading,
    private readonly entered: ReadonlyMap<ReactingCascade, ReadonlySet<string>>,
  ) {
    this.#rule = firstIn(parts);
    this.counts = parts.map(() => 0);
    this.#hasRivals = parts.some((rule) => hasRivals(state.plan.rules, rule));
    this.#isOfItsOwn = this.#rule.writes.type === this.#rule.source;
  }

  *run(): Generator<Need, void, Answer> {
    const rule = this.#rule;
    const reach = reachOf(this.state.model, rule.source, rule.route);
    const isOneFromOne = (reach === 'beneath' || reach === 'itself') && rule.isAllTheWay !== true;
    if (isOneFromOne)
      for (const type of this.watchedTypes())
        yield* this.state.pages(this.query(type), (page) => this.page(page));
    else if (rule.moment.kind === 'onChange') yield* this.together();
    else yield* this.state.pages(this.query(rule.writes.type), (page) => this.besidePage(page));
    for (const id of this.#acting) this.how.inCircle?.acted.add(id);
    yield* writeInChunks(this.state, this.#later);
  }

  /** Types whose records it acts on when they change, are made or are moved. */
  private watchedTypes(): string[] {
    const { writes, source, moment } = this.#rule;
    if (moment.kind === 'onChange') return [source];
    return [
      ...new Set(moment.up.map((_, at) => typeUp(this.state.model, writes.type, moment.up.slice(0, at)))),
    ];
  }

  /** Records that the run made or changed so that the rule may act. */
  private query(type: string): Omit<ChangedQuery, 'after' | 'most'> {
    const { writes, moment } = this.#rule;
    const isOnChange = moment.kind === 'onChange';
    const watched = isOnChange
      ? moment.tests.map(({ field }) => field.key)
      : moment.up.filter((link) => this.state.model.field(type, link));
    // Of a record just made nothing changed, but it may have become something.
    const isMadeAsked = isOnChange
      ? moment.tests.some(({ kind }) => kind === 'became')
      : type === writes.type;
    return {
      ...{ type, watched, made: isMadeAsked ? 'all' : 'none' },
      ...(this.how.isStanding ? { standing: this.#rule } : {}),
    };
  }

  private inputOf(page: readonly Touched[]): CascadeInput {
    const { model, facts, bounds } = this.state;
    const acted = this.how.inCircle?.acted;
    return {
      ...{ model, facts, rule: this.#rule, rowsOf: rowsOver(page) },
      touched: new Map(page.map((entry) => [recordKey(entry), entry])),
      // In a circle all that act do so together, before one of them writes.
      mostByRow: this.how.inCircle || this.#isOfItsOwn ? null : bounds.mostByRow,
      ...(acted ? { acted } : {}),
    };
  }

  /** Each record of the page cascades to those that take from no other. */
  private *page(page: readonly Touched[]): Generator<Need, void, Answer> {
    const input = this.inputOf(page);
    const found = yield* recipientsOf(input);
    if ('many' in found) return yield* this.asSet(input, found.many);
    for (const id of found.acting) this.#acting.add(id);
    yield* this.hand(input, found.recipients);
  }

  /** At creation from siblings: of these it must be known which were there before the run. */
  private *besidePage(page: readonly Touched[]): Generator<Need, void, Answer> {
    const { moment, writes } = this.#rule;
    if (moment.kind !== 'atCreation') return;
    const link = firstIn(moment.up);
    const parents = page.flatMap(({ after }) => {
      const parent = after?.values[link];
      return typeof parent === 'string' ? [parent] : [];
    });
    const set = rowSet(typeUp(this.state.model, writes.type, [link]), parents);
    const { parentOf }: Answers['related'] = yield* ask<'related'>({
      ...{ kind: 'related', parents: set, link: { type: writes.type, link } },
    });
    const own = new Set(page.map(({ id }) => id));
    const others = yield* this.state.changedAmong(
      { type: writes.type, watched: null, made: 'all' },
      [...parentOf.keys()].filter((id) => !own.has(id)),
    );
    const input = this.inputOf([...page, ...others]);
    const found = yield* recipientsOf(input);
    if ('many' in found) return;
    const recipients = new Map([...found.recipients].filter(([id]) => own.has(id)));
    for (const id of recipients.keys()) this.#acting.add(id);
    yield* this.hand(input, recipients);
  }

  /** Several may cascade to one: first it is told who reaches whom, then page by page what is taken. */
  private *together(): Generator<Need, void, Answer> {
    const rule = this.#rule;
    const { model } = this.state;
    const sources: string[] = [];
    const reached = new Map<string, string[]>();
    let pairs = 0;
    const query = this.query(rule.source);
    const state = this.state;
    yield* state.pages(query, (page) =>
      this.reach(page, { sources, reached, counted: (more) => (pairs += more) }),
    );
    if (rule.isAllTheWay) {
      const beneath = yield* walkRoute(model, rule, sources, rowsOver([]));
      for (const [target, from] of beneath) reached.set(target, [...from]);
    }
    for (const id of sources) this.#acting.add(id);
    for (const chunk of inChunks([...reached.keys()], state.bounds.page)) {
      const wanted = new Map(chunk.map((target) => [target, new Set(valueAt(reached, target))]));
      const ids = new Set([...wanted.values()].flatMap((from) => [...from]));
      const page = yield* state.changedAmong(query, [...ids]);
      yield* askSet<'page'>({ kind: 'page', touched: page });
      const input = this.inputOf(page);
      const fired = yield* firedIn(input);
      yield* this.hand(input, yield* this.recipients(input, fired, wanted));
    }
  }

  /** Which records of a page cascade, and whom they reach. */
  private *reach(
    page: readonly Touched[],
    into: {
      readonly sources: string[];
      readonly reached: Map<string, string[]>;
      readonly counted: (pairs: number) => number;
    },
  ): Generator<Need, void, Answer> {
    const input = this.inputOf(page);
    const fired = yield* firedIn(input);
    for (const id of fired.keys()) into.sources.push(id);
    const { rule, model, rowsOf } = input;
    if (rule.isAllTheWay || fired.size === 0) return;
    const found = yield* alongUpTo(model, rule, fired.keys(), { rowsOf, most: null, mostPairs: MOST_PAIRS });
    let pairs = into.counted(0);
    for (const [target, from] of found ?? []) {
      const known = into.reached.get(target);
      if (known) known.push(...from);
      else into.reached.set(target, [...from]);
      pairs = into.counted(from.size);
    }
    if (!found || pairs > MOST_PAIRS) throw new BulkRefused(tooManyPairs(rule));
  }

  private *recipients(
    { model, rule, rowsOf, ...input }: CascadeInput,
    fired: ReadonlyMap<string, CascadeSource>,
    wanted: ReadonlyMap<string, ReadonlySet<string>>,
  ): Generator<Need, Recipients, Answer> {
    if (rule.via === null) return recipientsFrom(rule, fired, wanted);
    // What is read of the record across which it goes is looked up on the way.
    const all = yield* followingOf({ ...input, model, rule, rowsOf, mostByRow: null }, fired);
    return new Map([...(all ?? [])].filter(([target]) => wanted.has(target)));
  }

  /** What records take, written or kept for the circle. */
  private *hand(input: CascadeInput, recipients: Recipients): Generator<Need, void, Answer> {
    if (recipients.size === 0) return;
    const all: { readonly rule: ReactingCascade; readonly handed: readonly Handed[] }[] = [];
    for (const rule of this.parts) {
      const found = yield* runCascade({ ...input, rule }, recipients, this.precedence(rule));
      if (found.failed !== null)
        throw yield* reactionRefused(
          this.state,
          rule,
          { type: rule.writes.type, id: found.failed },
          input.rowsOf,
        );
      this.state.overrules(rule, found.overruled.length);
      const handed = found.changed.map((worked) => ({ worked, causes: found.causes.get(worked.id) ?? [] }));
      all.push({ rule, handed });
    }
    const { inCircle } = this.how;
    if (inCircle) {
      for (const { handed } of all) inCircle.keep(handed);
      return;
    }
    const found = all.flatMap(({ handed }) => handed);
    if (this.#isOfItsOwn) this.#later.push(...found);
    else yield* writeHanded(found);
    all.forEach(({ handed }, at) => {
      this.counts[at]! += handed.length;
    });
  }

  private precedence(rule: ReactingCascade): Pick<WritePrecedence, 'isTaken' | 'writes' | 'overruledBy'> {
    const entered = valueAt(this.entered, rule);
    const { writePrecedence: shared } = this.state;
    return {
      isTaken: (cell, writer) => entered.has(cell.id) || shared.isTaken(cell, writer),
      writes: (writer, id) => this.#hasRivals && shared.writes(writer, id),
      overruledBy: (writer, cell, value) => ({ ...cell, rule: writer.id, value }),
    };
  }

  /** So many take something from records of the page that they are written as a set. */
  private *asSet(
    input: CascadeInput,
    pairs: ReadonlyMap<string, CascadeSource>,
  ): Generator<Need, void, Answer> {
    const parts: BulkAssignment[] = [];
    for (const rule of this.parts) {
      const given = yield* bulkAssignment({ ...input, rule }, pairs);
      if ('failed' in given)
        throw yield* reactionRefused(this.state, rule, { type: rule.source, id: given.failed }, input.rowsOf);
      const outranked = this.#hasRivals ? this.state.writePrecedence.takenIn(rule) : [];
      parts.push({ rule, given, except: [...valueAt(this.entered, rule), ...outranked] });
    }
    const { counts, overruled, taken }: Answers['bulkCascade'] = yield* ask<'bulkCascade'>({
      ...{ kind: 'bulkCascade', parts, tellsTaken: this.#hasRivals },
    });
    counts.forEach((count, at) => {
      this.counts[at]! += count;
    });
    this.parts.forEach((rule, at) => this.state.overrules(rule, overruled[at] ?? 0));
    taken.forEach((ids, at) => {
      for (const id of ids) this.state.writePrecedence.writes(this.parts[at]!, id);
    });
  }
}

/** Writes values on records of one type, which are read first, so many at a time. */
export function* writeInChunks(
  { bounds }: BulkState,
  handed: readonly Handed[],
): Generator<Need, void, Answer> {
  for (const chunk of inChunks(handed, bounds.page)) {
    yield* knowRows(
      firstIn(chunk).worked.rule.writes.type,
      chunk.map(({ worked }) => worked.id),
    );
    yield* writeHanded(chunk);
  }
}

/** Begins a page on which these records are known. */
export function* knowRows(type: string, ids: readonly string[]): Generator<Need, void, Answer> {
  yield* askSet<'page'>({ kind: 'page', touched: [] });
  yield* ask<'records'>({ kind: 'records', set: rowSet(type, ids) });
}

/** Writes values on records that are known. */
function* writeHanded(handed: readonly Handed[]): Generator<Need, void, Answer> {
  if (handed.length === 0) return;
  const writes = handed.map(({ worked: { rule, id, before, after }, causes }): Write => ({
    ...{ kind: 'edit', type: rule.writes.type, id, wave: 1, events: [] },
    changes: [
      {
        ...{ ...rule.writes, id, wave: 1, rule: rule.id, causes },
        ...(rule.half ? { version: rule.version } : {}),
        ...{ before: isError(before) ? null : before.value, after: isError(after) ? null : after.value },
        ...{ error: null, errorBefore: isError(before) ? before.error : null },
      },
    ],
  }));
  yield* ask<'write'>({ kind: 'write', writes });
}

const tooManyPairs = ({ id, name }: ReactingCascade) => ({
  ...{ code: 'cascade.many' as const, index: 0, data: { rule: id, most: MOST_PAIRS } },
  message: `By “${name}” so many records would cascade to so many others that more than ${writeCount(MOST_PAIRS)} pairs would have to be put in order. Nothing was saved; send them in parts.`,
});
