import { Refusal } from '@/server/refusal';
import { numberSetting } from '@/server/setting';

/** What a request asks of the server; each has a share of the database's connections, so that none waits for another. */
export type Work = 'read' | 'save' | 'long' | 'upload';

interface Bounds {
  /** How many are carried out at once. */
  readonly atOnce: number;
  /** How many may wait for their turn. */
  readonly waiting: number;
  /** Milliseconds that one waits at most. */
  readonly patience: number;
}

/** Lets so many in at once, in the order in which they came; more wait, and too many are told so. */
export class Gate {
  #inside = 0;
  readonly #waiting: (() => void)[] = [];

  constructor(
    readonly work: Work,
    private readonly bounds: Bounds,
  ) {}

  /** Answers what lets the next in. Refuses (503) where too many wait already, or it took too long. */
  async enter(): Promise<() => void> {
    if (this.#inside >= this.bounds.atOnce) await this.wait();
    else this.#inside += 1;
    let isOut = false;
    return () => {
      if (isOut) return;
      isOut = true;
      const next = this.#waiting.shift();
      if (next) next();
      else this.#inside -= 1;
    };
  }

  private wait(): Promise<void> {
    if (this.#waiting.length >= this.bounds.waiting) throw this.busy();
    return new Promise((resolve, reject) => {
      const enter = () => {
        clearTimeout(timer);
        resolve();
      };
      const timer = setTimeout(() => {
        this.#waiting.splice(this.#waiting.indexOf(enter), 1);
        reject(this.busy());
      }, this.bounds.patience);
      this.#waiting.push(enter);
    });
  }

  private busy(): Refusal {
    const { atOnce, waiting } = this.bounds;
    return new Refusal(503, 'busy', WORDS[this.work], [], { atOnce, waiting, retryAfter: 5 });
  }
}

const WORDS: Record<Work, string> = {
  read: 'Too many people ask at once. Nothing is wrong with what you asked for; try again in a moment.',
  save: 'Too many saves wait at once. Nothing was saved; try again in a moment.',
  long: 'Previews, rehearsals, imports and exports take turns, and too many wait right now. Nothing was done; try again in a moment.',
  upload: 'Too many files are coming in at once. Nothing was taken in; send it again in a moment.',
};

/** Shares of the database's connections; see docs/operating.md. */
const shares = () => ({
  read: numberSetting('OIKON_READS', 6),
  save: numberSetting('OIKON_SAVES', 8),
  long: numberSetting('OIKON_LONG_WORK', 3),
  jobs: 3,
});

/** Most connections that the process opens: the shares together, so that whoever was let in never waits for one. */
export const mostConnections = (): number => Object.values(shares()).reduce((sum, share) => sum + share, 0);

const globals = globalThis as { oikonGates?: Record<Work, Gate> };

export const gates = (): Record<Work, Gate> => (globals.oikonGates ??= makeGates());

function makeGates(): Record<Work, Gate> {
  const { read, save, long } = shares();
  return {
    read: new Gate('read', { atOnce: read, waiting: 200, patience: 20_000 }),
    save: new Gate('save', { atOnce: save, waiting: 200, patience: 20_000 }),
    long: new Gate('long', { atOnce: long, waiting: 24, patience: 60_000 }),
    upload: new Gate('upload', { atOnce: 16, waiting: 0, patience: 0 }),
  };
}
