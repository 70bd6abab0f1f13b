import { evaluatorOf, Failure, inOrder, OUTSIDE, type Outside } from '@/core/expression';
import { fold, isError, itemAt, type Outcome, sameValue, type Value } from '@/core/values';
import type { Reader } from '@/core/rules/roll-up/member-gives';
import type { CompiledFinding, CompiledLinked } from './link-rule';

/** Looks beyond the record whose link is filled. */
export interface Finder<T> {
  /** The record at the top of a hierarchy, above one; that one itself where nothing is above it. `OUTSIDE` where not all that is above is here. */
  readonly topmost: (type: string, link: string, id: string) => string | Outside;
  /** Every record of a type that is there; `OUTSIDE` where not all of them are here. */
  readonly everyOf: (type: string) => Iterable<T> | Outside;
}

type Matching = Extract<CompiledFinding, { kind: 'match' }>;

/**
 * What a link rule makes of a link that holds `stored`.
 *
 * | the rule                                   | one is found        | none is found                          | several, and a person is asked |
 * | ------------------------------------------ | ------------------- | -------------------------------------- | ------------------------------ |
 * | doesn't apply here                         | as it is            | as it is                               | as it is                       |
 * | holds always                               | that one            | as it is, or empty, as the rule says   | –                              |
 * | holds where it is empty, and it isn't      | as it is            | as it is                               | as it is                       |
 * | holds where it is empty, and it is         | that one            | empty                                  | empty                          |
 */
export function linkedOutcome<T>(
  rule: CompiledLinked,
  at: T,
  { reader, finder }: { readonly reader: Reader<T>; readonly finder: Finder<T> },
  stored: Outcome,
): Outcome | Outside {
  const stands: Outcome = isError(stored) ? { value: null } : stored;
  const isEmpty = isError(stands) || stands.value === null;
  if (rule.holds === 'whereEmpty' && !isEmpty) return stands;
  const applies = rule.appliesWhen ? evaluatorOf(rule.appliesWhen)(at, reader.given, reader.beneath) : true;
  if (applies === OUTSIDE) return OUTSIDE;
  if (applies instanceof Failure) return { error: applies.code };
  if (applies !== true) return stands;
  const found =
    rule.find.kind === 'route'
      ? atEnd(rule.find, at, { reader, finder })
      : firstMatch(rule.find, at, { reader, finder });
  if (found === OUTSIDE) return OUTSIDE;
  if (found instanceof Failure) return { error: found.code };
  if (found !== null) return { value: found };
  return rule.none === 'clear' ? { value: null } : stands;
}

interface Looking<T> {
  readonly reader: Reader<T>;
  readonly finder: Finder<T>;
}

function atEnd<T>(
  { value, topmost }: Extract<CompiledFinding, { kind: 'route' }>,
  at: T,
  { reader, finder }: Looking<T>,
): Value | Outside | Failure {
  const end = reader.given(at, value);
  if (typeof end !== 'string' || !topmost) return end;
  const top = finder.topmost(topmost.type, topmost.link, end);
  return top === end && !topmost.isItself ? null : top;
}

function firstMatch<T>(find: Matching, at: T, looking: Looking<T>): Value | Outside | Failure {
  const matches = matchesOf(find, at, looking);
  if (matches === OUTSIDE || matches instanceof Failure) return matches;
  if (matches.length > 1 && find.several === 'ask') return null;
  const [first] = matches;
  return first === undefined ? null : looking.reader.idOf(first);
}

/** The records that a match finds, in its order. What is empty is the same as nothing. */
export function matchesOf<T>(
  { type, keys, condition, order }: Matching,
  at: T,
  { reader, finder }: Looking<T>,
): readonly T[] | Outside | Failure {
  const wanted: Value[] = [];
  for (const { value, isFolded } of keys) {
    const worked = evaluatorOf(value)(at, reader.given, reader.beneath);
    if (worked === OUTSIDE || worked instanceof Failure) return worked;
    if (worked === null) return [];
    wanted.push(folded(worked, isFolded));
  }
  const all = finder.everyOf(type);
  if (all === OUTSIDE) return OUTSIDE;
  const found: T[] = [];
  for (const one of all) {
    const isSame = keys.every(({ field, isFolded }, index) => {
      const has = reader.given(one, field);
      return (
        has !== OUTSIDE &&
        !(has instanceof Failure) &&
        has !== null &&
        sameValue(folded(has, isFolded), itemAt(wanted, index))
      );
    });
    if (!isSame) continue;
    const meets = condition ? evaluatorOf(condition)(one, reader.given, reader.beneath) : true;
    if (meets === OUTSIDE || meets instanceof Failure) return meets;
    if (meets === true) found.push(one);
  }
  return inOrder(found, order, reader);
}

const folded = (value: Value, isFolded: boolean): Value =>
  isFolded && typeof value === 'string' ? fold(value) : value;
