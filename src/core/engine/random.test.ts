import { cases } from '@/core/testing/cases';
import fc from 'fast-check';
import { buildPlan, type Plan, planAlone } from '@/core/plan';
import { anyCase, type Case, pacedCase } from '@/core/testing/any-case';
import { keptIn, keptPlainly, printRows, reactedIn } from '@/core/testing/compare';
import {
  answerInMemory,
  type Edit,
  MemoryStore,
  Overlay,
  propagate,
  type PropagateInput,
  rollUpInMemory,
  runInMemory,
  type RunOutcome,
} from '.';
import { isReacting, isSlower, sameAccumulator } from '@/core/rules';

/** Runs a case in memory, each save in an overlay over all before it, and looks at the store after each. */
function play(
  { model, rules, rows, saves }: Case,
  after: (store: MemoryStore, outcome: RunOutcome, number: number) => void = () => undefined,
  { fewestTargets, isAllAgain = false }: { fewestTargets?: number; isAllAgain?: boolean } = {},
): MemoryStore {
  const { plan } = buildPlan(model, rules);
  const store = new MemoryStore(model, true, fewestTargets);
  rows.forEach((row) => store.put(row));
  const save = (edits: readonly Edit[], fill: readonly string[] = []) => {
    const overlay = new Overlay(model, store);
    const outcome = runInMemory(model, overlay, propagate({ model, plan, edits, fill }));
    if (outcome.kind === 'done') overlay.commit();
    return outcome;
  };
  const all = plan.rules.map(({ id }) => id);
  save([], all);
  saves.forEach((edits, number) => after(store, save(edits, isAllAgain ? all : []), number));
  return store;
}

const allRows = (store: MemoryStore) => store.model.types.flatMap(({ key }) => [...store.rows(key)]);

test('after every save each kept value is what working everything out from nothing gives', () => {
  fc.assert(
    fc.property(anyCase, (given) => {
      const { plan } = buildPlan(given.model, given.rules);
      play(given, (store) => {
        const rows = allRows(store);
        expect(keptIn(plan, rows)).toEqual(keptPlainly(given.model, plan, rows));
      });
    }),
    { numRuns: cases(200) },
  );
});

test('a rule that reacts does so where its result changed, and nowhere else', () => {
  let acted = 0;
  fc.assert(
    fc.property(anyCase, (given) => {
      const { plan } = buildPlan(given.model, given.rules);
      if (!plan.rules.some(isReacting)) return;
      const store = play({ ...given, saves: [] });
      for (const edits of given.saves) {
        const before = allRows(store);
        const overlay = new Overlay(given.model, store);
        const outcome = runInMemory(given.model, overlay, propagate({ model: given.model, plan, edits }));
        if (outcome.kind === 'refused') continue;
        overlay.commit();
        acted += outcome.ripple.changes.filter(({ rule }) =>
          plan.rules.some((one) => one.id === rule && isReacting(one)),
        ).length;
        const { found, expected } = reactedIn(given.model, plan, { before, after: allRows(store), edits });
        expect(found).toEqual(expected);
      }
    }),
    { numRuns: cases(900) },
  );
  expect(acted).toBeGreaterThan(2);
});

test('what is kept beside a value is what the value is made of', () => {
  fc.assert(
    fc.property(anyCase, (given) => {
      const { plan } = buildPlan(given.model, given.rules);
      const store = play(given);
      for (const rule of plan.rules) {
        // Of two versions beside each other nothing is brought up to date by difference.
        if (rule.kind !== 'rollUp' || rule.half) continue;
        for (const row of store.rows(rule.writes.type)) {
          const kept = store.notes.accumulator(rule, row.id);
          if (row.deleted || !kept) continue;
          const brought = rollUpInMemory(given.model, store, rule, row);
          expect(typeof brought === 'object' && sameAccumulator(brought.accumulator!, kept)).toBe(true);
        }
      }
    }),
    { numRuns: cases(100) },
  );
});

test('rules worked out over columns give what they give over rows, whatever is pending', () => {
  fc.assert(
    fc.property(anyCase, (given) => {
      const outcomes = (fewestTargets: number): string[] => {
        const seen: string[] = [];
        const store = play(given, (_, outcome) => seen.push(JSON.stringify(outcome)), {
          ...{ fewestTargets, isAllAgain: true },
        });
        return [...seen, printRows(allRows(store))];
      };
      expect(outcomes(1)).toEqual(outcomes(Infinity));
    }),
    { numRuns: cases(150) },
  );
});

test('the result depends neither on the order of the rules nor on that of the edits', () => {
  fc.assert(
    fc.property(anyCase, fc.infiniteStream(fc.nat()), (given, numbers) => {
      const shuffled = <T>(of: readonly T[]): T[] =>
        of
          .map((one) => [numbers.next().value!, one] as const)
          .sort(([a], [b]) => a - b)
          .map(([, one]) => one);
      const outcomes = (of: Case): string[] => {
        const seen: string[] = [];
        const store = play(of, (_, outcome) =>
          seen.push(
            outcome.kind === 'refused'
              ? outcome.problems
                  .map(({ code }) => code)
                  .sort()
                  .join()
              : JSON.stringify(outcome.ripple.changes.map((change) => JSON.stringify(change)).sort()),
          ),
        );
        return [...seen, printRows(allRows(store))];
      };
      const other = { ...given, rules: shuffled(given.rules), saves: given.saves.map(shuffled) };
      expect(outcomes(other)).toEqual(outcomes(given));
    }),
    { numRuns: cases(80) },
  );
});

/** Plays a case with rules of whatever pace, keeping what waits. */
class Waiting {
  readonly store: MemoryStore;
  readonly plan: Plan;
  readonly waiting = new Map<string, Set<string>>();

  constructor(private readonly given: Case) {
    this.plan = buildPlan(given.model, given.rules).plan;
    this.store = new MemoryStore(given.model, true);
    given.rows.forEach((row) => this.store.put(row));
    const fill = this.plan.rules.map(({ id }) => id);
    this.run({ edits: [], fill });
    this.waiting.clear();
  }

  run(input: Omit<PropagateInput, 'model' | 'plan'>): RunOutcome {
    const { model } = this.given;
    const overlay = new Overlay(model, this.store);
    const taken: { rule: string; ids: readonly string[] }[] = [];
    const run = propagate({ model, plan: this.plan, ...input });
    let step = run.next();
    while (!step.done) {
      if (step.value.kind === 'takeLater') taken.push(step.value);
      step = run.next(answerInMemory(model, overlay, step.value));
    }
    const outcome = step.value;
    if (outcome.kind === 'refused') return outcome;
    overlay.commit();
    for (const { rule, ids } of taken) for (const id of ids) this.waiting.get(rule)?.delete(id);
    for (const { rule, ids } of outcome.ripple.later)
      this.waiting.set(rule, new Set([...(this.waiting.get(rule) ?? []), ...ids]));
    return outcome;
  }

  /** Values that aren't what their rule gives over the records as they stand, and don't wait. */
  forgotten(): string[] {
    const { model } = this.given;
    return this.plan.rules
      .filter((rule) => !isReacting(rule))
      .flatMap((rule) => {
        const alone = planAlone([rule]);
        const outcome = runInMemory(
          model,
          new Overlay(model, this.store),
          propagate({ model, plan: alone, edits: [], fill: [rule.id], isAlone: true }),
        );
        if (outcome.kind === 'refused') return [];
        const isDeferred = (id: string) => isSlower(rule) && this.waiting.get(rule.id)?.has(id);
        return outcome.ripple.changes
          .filter(({ id }) => !isDeferred(id))
          .map(({ id }) => `${rule.name} ${id}`);
      });
  }

  /** Brings rules up to date until nothing of them waits. */
  bring(rules: readonly string[]): RunOutcome | null {
    for (;;) {
      const due = new Map(
        rules.flatMap((id) => (this.waiting.get(id)?.size ? [[id, [...this.waiting.get(id)!]]] : [])),
      );
      if (due.size === 0) return null;
      const outcome = this.run({ edits: [], due });
      if (outcome.kind === 'refused') return outcome;
    }
  }
}

test('what a slower pace leaves waits, until working out what waits makes it what everything from nothing gives', () => {
  let waited = 0;
  let asked = 0;
  fc.assert(
    fc.property(pacedCase, fc.infiniteStream(fc.nat(9)), (given, numbers) => {
      const played = new Waiting(given);
      const isAll = (): boolean => played.plan.rules.every(({ id }) => !played.waiting.get(id)?.size);
      for (const edits of given.saves) {
        played.run({ edits });
        waited += isAll() ? 0 : 1;
        expect(played.forgotten()).toEqual([]);
        const some = played.plan.rules.filter((rule) => isSlower(rule) && numbers.next().value! > 6);
        const stopped = played.bring(some.map(({ id }) => id));
        asked += some.length;
        if (stopped) return;
        expect(played.forgotten()).toEqual([]);
      }
      if (played.bring(played.plan.rules.filter(isSlower).map(({ id }) => id))) return;
      const rows = allRows(played.store);
      expect(keptIn(played.plan, rows)).toEqual(keptPlainly(given.model, played.plan, rows));
    }),
    { numRuns: cases(200) },
  );
  expect(waited).toBeGreaterThan(100);
  expect(asked).toBeGreaterThan(50);
});
