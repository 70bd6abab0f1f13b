import { log } from '@/server/log';
import { sweepSessions } from '@/server/sign-in/sessions';

/** Milliseconds between two sweeps. */
const EVERY = 3_600_000;

const globals = globalThis as { oikonEnded?: NodeJS.Timeout };

/** Takes sessions, tokens and addresses away that have ended, from now on, once an hour; once for each process. Before they are swept they are good for nothing, too. */
export function startSweeping(): void {
  if (globals.oikonEnded) return;
  const sweep = () =>
    void sweepSessions().catch((error: unknown) => {
      log.warn({ err: error }, 'ended sessions could not be swept; it is tried again');
    });
  globals.oikonEnded = setInterval(sweep, EVERY);
  globals.oikonEnded.unref();
  sweep();
}
