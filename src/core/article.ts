/** `a` or `an`, as the name of a type begins. */
export const article = (name: string): string => (/^[aeiou]/i.test(name) ? 'an' : 'a');
