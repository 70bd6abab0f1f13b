/** What came with the page: answers that its first queries would ask for, so that they needn't. */

interface AtHand {
  readonly answer: Promise<unknown>;
  readonly since: number;
}

/** Milliseconds for which what came with a page is as good as asked for now. */
const FRESH = 5_000;

const answers = new Map<string, AtHand>();

/** A page that is gone back to is drawn again from what it was drawn from: that was laid by once, and isn't of now any more. */
const laid = new WeakSet<Promise<unknown>>();

/** Lays an answer by for the first who asks for its address; `null` where the server couldn't tell it. */
export function layBy(address: string, answer: Promise<unknown>): void {
  if (typeof window === 'undefined' || laid.has(answer)) return;
  laid.add(answer);
  answers.set(address, { answer, since: performance.now() });
}

/** What is laid by for an address, once: whoever asks again is to be told what is so then. */
export function taken(address: string): Promise<unknown> | null {
  const found = answers.get(address);
  answers.delete(address);
  return found && performance.now() - found.since < FRESH ? found.answer : null;
}

/** Something is saved: nothing that came before is as good as asked for now. */
export const forgetAtHand = (): void => answers.clear();
