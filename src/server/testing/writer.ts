/**
 * A process that saves edits at random until it is stopped: `tsx writer.ts WORKSPACE SEED`. Tells each save on a line of its
 * own; what can't be done is refused in words and not told; anything else ends it with a code.
 */
import { saveEdits } from '@/server/actions/records/save-edits';
import { Refusal } from '@/server/refusal';
import { numbersFrom, someEdits } from './traffic';
import { TESTER } from './tester';

async function write(workspace: string, seed: number): Promise<never> {
  const number = numbersFrom(seed);
  for (;;) {
    try {
      const { run } = await saveEdits({ workspace, person: TESTER.id, edits: someEdits(number) });
      process.stdout.write(`saved ${run}\n`);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
    }
  }
}

write(process.argv[2]!, Number(process.argv[3])).catch((error: unknown) => {
  console.error(error);
  process.exit(1);
});
