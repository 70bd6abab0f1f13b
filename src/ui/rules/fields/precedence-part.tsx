'use client';

import { precedenceWords } from '@/core/rules';
import { MenuPart } from '@/ui/expression/part';

interface PrecedencePartProps {
  readonly precedence: number | null;
  readonly isWrong: boolean;
  /** Names of other live rules that react into the same fields. */
  readonly others: readonly string[];
  readonly onChange: (precedence: number | null) => void;
}

const OFFERED = [1, 2, 3, 4, 5, 6, 7, 8, 9];

/** Where a rule comes among those that react into the same fields; shown where it has to be said, or is. */
export function PrecedencePart({ precedence, isWrong, others, onChange }: PrecedencePartProps) {
  if (precedence === null && !isWrong) return null;
  const given = [...new Set([...OFFERED, ...(precedence === null ? [] : [precedence])])].sort(
    (a, b) => a - b,
  );
  return (
    <>
      {others.length > 0
        ? `Beside ${[...new Set(others)].map((name) => `“${name}”`).join(' and ')} it comes `
        : 'Of several rules it comes '}
      <MenuPart
        label="Where it comes among rules that write the same"
        text={precedence === null && isWrong ? null : precedenceWords(precedence)}
        hint="first or last?"
        isWrong={isWrong}
        choices={[
          ...given.map((one) => ({ key: String(one), name: precedenceWords(one) })),
          { key: '', name: precedenceWords(null) },
        ]}
        onChoose={(key) => onChange(key === '' ? null : Number(key))}
      />
      .{' '}
    </>
  );
}
