import { isCurrency } from './currencies';
import type { ValueType } from './value';

/** A unit as what it is multiplied and divided by: `GBP/m³` is of GBP, by m³. */
interface Parts {
  readonly of: readonly string[];
  readonly by: readonly string[];
}

const BY = '/';
const TIMES = '·';
/** What stands over the line where nothing does. */
const NONE = '1';

/** A unit as it is typed: `GBP per m³` and `GBP / m³` are `GBP/m³`, `kg * m` is `kg·m`. */
export const unitOf = (typed: string): string =>
  typed
    .normalize('NFC')
    .trim()
    .replace(/\s+per\s+|\s*\/\s*/g, BY)
    .replace(/\s*[*·]\s*/g, TIMES);

function partsOf(unit: string | undefined): Parts {
  if (unit === undefined) return { of: [], by: [] };
  const [of = '', ...by] = unit.split(BY);
  return {
    of: of === NONE ? [] : of.split(TIMES),
    by: by.flatMap((one) => one.split(TIMES)),
  };
}

/** Without what stands both over the line and under it. */
function joined({ of, by }: Parts): string | undefined {
  const under = [...by];
  const over = of.filter((one) => {
    const at = under.indexOf(one);
    if (at >= 0) under.splice(at, 1);
    return at < 0;
  });
  if (over.length === 0 && under.length === 0) return undefined;
  return [over.join(TIMES) || NONE, ...under].join(BY);
}

export function unitsMultiplied(a: string | undefined, b: string | undefined): string | undefined {
  const [one, other] = [partsOf(a), partsOf(b)];
  return joined({ of: [...one.of, ...other.of], by: [...one.by, ...other.by] });
}

export function unitsDivided(a: string | undefined, b: string | undefined): string | undefined {
  const [one, other] = [partsOf(a), partsOf(b)];
  return joined({ of: [...one.of, ...other.by], by: [...one.by, ...other.of] });
}

/** A number of so many places in a unit; where that is a currency, money. */
export const measured = (type: Extract<ValueType, { kind: 'number' }>): ValueType =>
  type.unit !== undefined && isCurrency(type.unit) ? { kind: 'money', currency: type.unit } : type;
