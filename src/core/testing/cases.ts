/** So many cases of a randomised test; in the long tests (`bin/test long`) ten times as many, or as many as it says. */
export const cases = (number: number, long = number * 10): number => (process.env.OIKON_LONG ? long : number);
