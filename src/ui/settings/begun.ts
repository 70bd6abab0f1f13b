/** Words as they begin a line. */
export const begun = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1);
