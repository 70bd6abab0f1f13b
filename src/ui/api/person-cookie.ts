/** The cookie in which a browser remembers who acts in a demo, so that a page shows what they see. Where people sign in nobody looks at it. */
export const PERSON_COOKIE = 'oikon-person';
