'use client';

import { formInUse, formKey } from '@/core/values';
import type { ModelDefinition } from '@/core/model';
import type { ModelView } from '@/core/api';
import { type Remote, wrap } from 'comlink';
import type { RuleWorker } from './rule-worker';

/** A model as it is handed to the worker. */
export const modelData = ({ types, lists, selections, timeZone }: ModelView): ModelDefinition => ({
  ...{ types, lists, selections, timeZone },
});

let worker: Remote<RuleWorker> | null = null;

export function theWorker(): Remote<RuleWorker> {
  worker ??= wrap<RuleWorker>(
    // What it writes, it writes by the form of the page.
    new Worker(new URL('./rule-worker.worker.ts', import.meta.url), {
      ...{ type: 'module', name: formKey(formInUse()) },
    }),
  );
  return worker;
}

/** Has the worker read its script while the page still reads what it will hand to it. */
export const warmWorker = (): void => {
  if (typeof Worker !== 'undefined') theWorker();
};

// The worker holds one family at a time, so work on different ones goes one after the other.
let queue: Promise<unknown> = Promise.resolve();

export function serialize<T>(work: () => Promise<T>): Promise<T> {
  const turn = queue.then(work, work);
  queue = turn.catch(() => undefined);
  return turn;
}
