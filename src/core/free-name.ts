/** The first of a row of names that nothing has yet: `nth(1)` is the name itself, `nth(2)` the one after it. */
export function freeName(nth: (number: number) => string, isTaken: (name: string) => boolean): string {
  let number = 1;
  while (isTaken(nth(number))) number += 1;
  return nth(number);
}
