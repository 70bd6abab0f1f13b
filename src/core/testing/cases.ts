/** So many cases of a randomised test; ten times as many in the long tests (`bin/test long`). */
export const cases = (number: number): number => (process.env.OIKON_LONG ? number * 10 : number);
