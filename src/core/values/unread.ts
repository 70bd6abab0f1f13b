/**
 * What a person typed that can't be read by their form, with why. It stands where a value would until it is mended: nothing that was typed is lost, and
 * whatever reads values refuses it with these words.
 */
export interface Unread {
  readonly typed: string;
  readonly why: string;
}

export const isUnread = (value: unknown): value is Unread =>
  typeof value === 'object' && value !== null && 'typed' in value && 'why' in value;
