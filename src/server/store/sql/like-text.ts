/** Text that stands for itself in a LIKE. */
export const likeText = (text: string): string => text.replace(/[\\%_]/g, '\\$&');
