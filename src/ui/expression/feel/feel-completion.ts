import { listNames } from '@/core/expression';
import { follow, type Model, typeIn } from '@/core/model';
import { itemAt, KIND_NAMES } from '@/core/values';
import { ALL_FUNCTIONS, asInserted } from './function-list';

/** Something that can be written next. */
export interface Suggestion {
  readonly label: string;
  /** What stands beside it: a kind, or what a function takes. */
  readonly detail: string;
  readonly info?: string;
  readonly type: 'property' | 'function' | 'namespace' | 'keyword';
  /** What is written; the label where it is left out. */
  readonly apply?: string;
}

const KEYWORDS = [
  'if',
  'then',
  'else',
  'and',
  'or',
  'null',
  'true',
  'false',
  'some',
  'every',
  'in',
  'satisfies',
  'between',
];

const FUNCTION_SUGGESTIONS: readonly Suggestion[] = ALL_FUNCTIONS.map((one) => {
  const [example] = one.examples;
  const shown = example && (example.comesTo ? `${example.text} is ${example.comesTo}.` : example.text);
  return {
    ...{ label: one.name, detail: one.takes, info: [one.help, shown].join(' '), type: 'function' },
    apply: asInserted(one),
  };
});

/** Fields, records above and lists beneath a type, with their kinds. */
function namesOn(model: Model, type: string): Suggestion[] {
  const fields = typeIn(model, type).fields.map(({ key, name, type: of }): Suggestion => {
    const unit = of.kind === 'number' && of.unit ? ` in ${of.unit}` : '';
    const kind = of.kind === 'link' ? typeIn(model, of.target).name : KIND_NAMES[of.kind] + unit;
    return { label: key, detail: `${name} · ${kind}`, type: of.kind === 'link' ? 'namespace' : 'property' };
  });
  const lists = listNames(model, type).map(({ name, link }): Suggestion => ({
    ...{ label: name, detail: `several ${typeIn(model, link.type).plural}`, type: 'namespace' },
  }));
  return [...fields, ...lists];
}

/**
 * What can be written next after some text on records of a type: after a point what the record or list before it has; otherwise the
 * names of the record, functions and keywords. `from` is where the word that is being written starts.
 */
export function suggestionsAt(
  model: Model,
  type: string,
  before: string,
): { readonly from: number; readonly suggestions: readonly Suggestion[] } | null {
  const path = /([\p{L}_][\p{L}\p{N}_]*(?:\.[\p{L}_][\p{L}\p{N}_]*)*)\.([\p{L}\p{N}_]*)$/u.exec(before);
  if (path) {
    const reached = reachedBy(model, type, itemAt(path, 1).split('.'));
    return reached
      ? { from: before.length - itemAt(path, 2).length, suggestions: namesOn(model, reached) }
      : null;
  }
  const filter = /([\p{L}_][\p{L}\p{N}_.]*)\[([^\]]*)$/u.exec(before);
  const listed = filter ? reachedBy(model, type, itemAt(filter, 1).split('.')) : null;
  const word = /[\p{L}_][\p{L}\p{N}_]*$/u.exec(before)?.[0] ?? '';
  const keywords = KEYWORDS.map((label): Suggestion => ({ label, detail: '', type: 'keyword' }));
  return {
    from: before.length - word.length,
    suggestions: [...namesOn(model, listed ?? type), ...FUNCTION_SUGGESTIONS, ...keywords],
  };
}

function reachedBy(model: Model, type: string, names: readonly string[]): string | null {
  let at: string = type;
  for (const name of names) {
    const above = follow(model, at, [name]);
    const list = listNames(model, at).find((one) => one.name === name);
    const next = above ?? list?.link.type;
    if (!next) return null;
    at = next;
  }
  return at;
}
