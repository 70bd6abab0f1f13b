/** JSON with its keys sorted and nothing between them (RFC 8785, for values without fractions): the same thing is always the same text. */
export function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonical).join(',')}]`;
  if (typeof value !== 'object' || value === null) return JSON.stringify(value);
  const entries = Object.entries(value).filter(([, one]) => one !== undefined);
  entries.sort(([a], [b]) => (a < b ? -1 : 1));
  return `{${entries.map(([key, one]) => `${JSON.stringify(key)}:${canonical(one)}`).join(',')}}`;
}

/** Whether two pieces of plain data say the same, whatever the order of their keys; what is left out is as if it were `undefined`. */
export const sameData = (a: unknown, b: unknown): boolean =>
  a === b || (a !== undefined && b !== undefined && canonical(a) === canonical(b));
