import { type ModelDefinition, readModel } from '@/core/model';
import {
  heldAmong,
  type Strength,
  type StrengthInput,
  strengthOf,
  type StrengthProgress,
  toldAmong,
  type ToldAmong,
} from '@/core/verify';
import type { MessagePort } from 'node:worker_threads';

/** What is worked out in a thread, from plain data: the same as a page's own worker, or this process, would. */
type Plain<T extends { readonly model: unknown }> = Omit<T, 'model'> & {
  readonly model: ModelDefinition;
  readonly settledDay: string | null;
};

export interface Tasks {
  readonly strength: {
    readonly given: Plain<Omit<StrengthInput, 'isFigure'>> & {
      /** Takes how far it has come. */
      readonly port: MessagePort;
    };
    readonly answer: Strength;
  };
  readonly told: { readonly given: Plain<Parameters<typeof toldAmong>[0]>; readonly answer: ToldAmong };
  readonly held: {
    readonly given: Plain<Parameters<typeof heldAmong>[0]>;
    readonly answer: readonly string[];
  };
}

const opened = <T extends { readonly model: ModelDefinition; readonly settledDay: string | null }>({
  model,
  settledDay,
  ...given
}: T) => ({ ...given, model: readModel(model, settledDay) });

/** Milliseconds between two tellings. */
const TOLD_AFTER = 200;

function toEnd<T, R>(steps: Generator<T, R>, tell: (so: T) => void = () => undefined): R {
  for (let told = 0; ;) {
    const step = steps.next();
    if (step.done) return step.value;
    if (performance.now() - told < TOLD_AFTER) continue;
    told = performance.now();
    tell(step.value);
  }
}

const TASKS: { readonly [K in keyof Tasks]: (given: Tasks[K]['given']) => Tasks[K]['answer'] } = {
  strength: ({ port, ...given }) =>
    toEnd<StrengthProgress, Strength>(strengthOf(opened(given)), (progress) => port.postMessage(progress)),
  told: (given) => toEnd(toldAmong(opened(given))),
  held: (given) => toEnd(heldAmong(opened(given))),
};

/** Runs in a thread of its own. */
export default function work<K extends keyof Tasks>({
  task,
  given,
}: {
  readonly task: K;
  readonly given: Tasks[K]['given'];
}): Tasks[K]['answer'] {
  return TASKS[task](given);
}
