import type { Typed } from '@/core/syntax/expression';
import { partsOf } from '@/core/expression/reads';
import { withParts } from '@/core/expression/prefixed';

/**
 * Who makes the change of a run (the id of a person; `null`: Oikon itself, as where a timetable comes round), and when: an instant to the
 * millisecond in UTC, `2027-05-04T09:30:00.000Z`.
 */
export interface RunContext {
  readonly person: string | null;
  readonly moment: string;
  /** The id of whoever looks, where what a role sees is asked. */
  readonly me?: string;
}

const reading = new WeakMap<Typed, boolean>();

/** Whether an expression reads who makes the change, or when. */
export function readsRun(node: Typed): boolean {
  let known = reading.get(node);
  if (known === undefined) reading.set(node, (known = node.kind === 'ofRun' || partsOf(node).some(readsRun)));
  return known;
}

const known = new WeakMap<RunContext, Map<Typed, Typed>>();

/**
 * An expression in a run: who makes its change, and when, stand in it as constants. One that reads neither stays as it is. A run that says
 * neither, such as one that only fills what is kept, must not come to one that does.
 */
export function inRun(node: Typed, facts: RunContext | null): Typed {
  if (!readsRun(node)) return node;
  if (!facts) throw new RangeError('A rule reads who makes the change or when, which this run doesn’t say');
  let ofRun = known.get(facts);
  if (!ofRun) known.set(facts, (ofRun = new Map<Typed, Typed>()));
  let found = ofRun.get(node);
  if (!found) ofRun.set(node, (found = replaced(node, facts)));
  return found;
}

const replaced = (node: Typed, facts: RunContext): Typed =>
  node.kind === 'ofRun'
    ? { kind: 'constant', type: node.type, value: facts[node.what] ?? null }
    : withParts(node, (part) => (readsRun(part) ? replaced(part, facts) : part));
