import { type ModelDefinition, readModel } from '@/core/model';
import { type Strength, type StrengthInput, strengthOf, type StrengthProgress } from '@/core/verify';
import type { MessagePort } from 'node:worker_threads';

/** What a thread works out: the same as a page's own worker, from plain data. */
export interface StrengthTask extends Pick<StrengthInput, 'rules' | 'rule' | 'proofs'> {
  readonly model: ModelDefinition;
  readonly settledDay: string;
  /** Takes how far it has come. */
  readonly port: MessagePort;
}

/** Milliseconds between two tellings. */
const TOLD_AFTER = 200;

/** Runs in a thread of its own. */
export default function work({ model, settledDay, port, ...input }: StrengthTask): Strength {
  const steps = strengthOf({ ...input, model: readModel(model, settledDay) });
  let told = 0;
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
    if (performance.now() - told < TOLD_AFTER) continue;
    told = performance.now();
    port.postMessage(step.value satisfies StrengthProgress);
  }
}
