import { everyWord } from '@/ui/kit/every-word';

/** Something that a part of a sentence can be, or a group of such. */
export interface Choice {
  readonly key: string;
  readonly name: string;
  readonly note?: string;
  readonly isDisabled?: boolean;
  /** It opens something, takes the part out again or is seldom meant, so that it leaves another as the only choice. */
  readonly isAside?: boolean;
  readonly children?: readonly Choice[];
}

/** Choices as one list, each with the names of what it stands under; aside where that is. */
const flat = (choices: readonly Choice[], under = '', isAside = false): Choice[] =>
  choices.flatMap((choice) => {
    const aside = isAside || choice.isAside === true;
    return choice.children
      ? flat(choice.children, `${under}${choice.name.replace(/ …$/u, '')} `, aside)
      : [{ ...choice, name: `${under}${choice.name}`, ...(aside ? { isAside: true } : {}) }];
  });

/** Those whose name holds every word of a text, those that begin with it first; all of them, as they stand, while there is none. */
export function narrowed(choices: readonly Choice[], text: string): readonly Choice[] {
  const sought = text.trim();
  if (sought === '') return choices;
  const holds = everyWord(sought);
  const begins = ({ name }: Choice) => name.toLowerCase().startsWith(sought.toLowerCase());
  const found = flat(choices).filter(({ name }) => holds(name));
  return [...found.filter(begins), ...found.filter((choice) => !begins(choice))];
}

export const isLong = (choices: readonly Choice[]): boolean => flat(choices).length > 8;

/** The only thing that can be chosen, so that nobody has to; `null` where there are several or none. */
export function soleChoice(choices: readonly Choice[]): string | null {
  const open = flat(choices).filter((choice) => !choice.isDisabled && !choice.isAside);
  return open.length === 1 ? (open[0]?.key ?? null) : null;
}
