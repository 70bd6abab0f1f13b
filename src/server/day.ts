/** The civil day that it is in a time zone (`2026-03-14`). */
export const dayIn = (timeZone: string, now: Date): string =>
  new Intl.DateTimeFormat('sv-SE', { timeZone }).format(now);

/** What is said of a name that isn't a time zone's. */
export const notATimeZone = (name: string): string =>
  `“${name}” isn’t the name of a time zone. Expected one such as Europe/London.`;

/**
 * Whether it is the name of a time zone of the IANA database (`Europe/London`). A difference such as `+05:00` isn't: it knows no change of the
 * clocks, and PostgreSQL reads its sign the other way round.
 */
export function isTimeZone(name: string): boolean {
  try {
    return /^[A-Za-z]/.test(name) && new Intl.DateTimeFormat('en', { timeZone: name }) !== null;
  } catch {
    return false;
  }
}
