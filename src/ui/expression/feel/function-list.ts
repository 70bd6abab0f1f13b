import { FUNCTIONS, functionEntry, isFunction, LIST_FUNCTIONS, type Parameter } from '@/core/expression';
import { everyWord } from '@/ui/kit/every-word';

/** A function as people look for one: how it is written, what it gives, and examples with what they come to. */
export interface ListedFunction {
  readonly name: string;
  /** What stands between its parentheses: `(text, start, length?)`. */
  readonly takes: string;
  readonly help: string;
  readonly examples: readonly { readonly text: string; readonly comesTo: string | null }[];
}

const written = ({ name, isOptional, isRepeated }: Parameter): string =>
  isOptional ? `${name}?` : isRepeated ? `${name}, …` : name;

const example = (text: string, comesTo: string | null = null) => ({ text, comesTo });

/** What is written like a function, and is part of the notation itself. */
const OF_THE_NOTATION: readonly ListedFunction[] = [
  {
    ...{ name: 'contains', takes: '(text, part)', help: 'Whether a text contains another.' },
    examples: [example('contains("crate", "rat")', 'true')],
  },
  {
    ...{ name: 'starts with', takes: '(text, part)', help: 'Whether a text starts with another.' },
    examples: [example('starts with("crate", "cr")', 'true')],
  },
  {
    ...{ name: 'not', takes: '(test)', help: 'Whether a test doesn’t hold.' },
    examples: [example('not(1 > 2)', 'true')],
  },
  {
    ...{ name: 'date', takes: '("year-month-day")', help: 'A day, or one from a year, a month and a day.' },
    examples: [example('date("2026-02-14")'), example('date(2026, 2, 14)', 'date("2026-02-14")')],
  },
  {
    ...{ name: 'duration', takes: '("P…")', help: 'Days (P3D) or months (P1Y6M), which a date goes on by.' },
    examples: [example('date("2026-02-14") + duration("P1M")', 'date("2026-03-14")')],
  },
  {
    ...{
      name: 'amount',
      takes: '(number, "unit")',
      help: 'A number in a unit, such as GBP/m³: times so many m³ it is GBP.',
    },
    examples: [example('amount(0.35, "GBP/m³")'), example('amount(20, "GBP")')],
  },
  { name: 'today', takes: '()', help: 'The settled day, which moves on by itself.', examples: [] },
  {
    ...{ name: 'now', takes: '()', help: 'The moment of the change: only where a rule acts on one.' },
    examples: [],
  },
  {
    ...{
      name: 'person',
      takes: '()',
      help: 'The person who makes the change: only where a rule acts on one.',
    },
    examples: [],
  },
  {
    ...{ name: 'me', takes: '()', help: 'Whoever looks: only where it is said what a role sees.' },
    examples: [],
  },
  {
    ...{ name: 'selected', takes: '("selection")', help: 'Whether the record is in a selection.' },
    examples: [example('selected("lately")')],
  },
];

/** Every function that can be written: of values, of lists beneath, and of the notation itself. */
export const ALL_FUNCTIONS: readonly ListedFunction[] = [
  ...Object.keys(FUNCTIONS)
    .filter(isFunction)
    .map((name): ListedFunction => {
      const { parameters, help, examples } = functionEntry(name);
      return {
        ...{ name, help, takes: `(${parameters.map(written).join(', ')})` },
        examples: examples.map(([text, comesTo]) => example(text, comesTo)),
      };
    }),
  ...Object.entries(LIST_FUNCTIONS).map(([name, { help, example: text }]): ListedFunction => ({
    ...{ name, help, takes: '(list)', examples: [example(text)] },
  })),
  ...OF_THE_NOTATION,
];

/** Functions whose name, help or examples hold every word; those whose name does stand first. */
export function functionsFound(search: string): readonly ListedFunction[] {
  if (search.trim() === '') return ALL_FUNCTIONS;
  const holds = everyWord(search);
  const named = ALL_FUNCTIONS.filter(({ name }) => holds(name));
  const told = ALL_FUNCTIONS.filter(
    (one) =>
      !named.includes(one) && holds([one.name, one.help, ...one.examples.map(({ text }) => text)].join(' ')),
  );
  return [...named, ...told];
}

/** What is put where the caret stands: `floor(`, and the whole of one that takes nothing. */
export const asInserted = ({ name, takes }: ListedFunction): string =>
  takes === '()' ? `${name}()` : `${name}(`;
