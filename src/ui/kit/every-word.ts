const lowered = (text: string): string => text.toLowerCase();

/** Whether texts hold every word of a search, in any order and whatever the case; `plain` makes both alike in more than that. */
export function everyWord(search: string, plain = lowered): (text: string) => boolean {
  const words = plain(search).split(/\s+/).filter(Boolean);
  return (text) => {
    const where = plain(text);
    return words.every((word) => where.includes(word));
  };
}
