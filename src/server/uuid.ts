import { validate } from 'uuid';

/** Whether a text is written as an id; anything else is nobody's, and no database can read it. */
export const isUuid = (text: string): boolean => validate(text);
