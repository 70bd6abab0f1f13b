/** The civil day that it is in a time zone (`2026-03-14`). */
export const dayIn = (timeZone: string, now: Date): string =>
  new Intl.DateTimeFormat('sv-SE', { timeZone }).format(now);
