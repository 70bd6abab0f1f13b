'use client';

import { useMutation } from '@tanstack/react-query';
import { App } from 'antd';

export interface Task {
  readonly isBusy: boolean;
  /** What the last try was refused with. */
  readonly error: Error | null;
  /** Forgets what the last try was refused with. */
  clear(): void;
  /**
   * Does something; says so once it is done, and goes on. Refused, it stays where it is: `error` tells it, and the answer is `undefined`.
   */
  run<T>(
    work: () => Promise<T>,
    done: ((answer: T) => string) | null,
    onDone?: (answer: T) => void,
  ): Promise<T | undefined>;
}

/** What a dialog or a button does: busy meanwhile, and with what was refused. */
export function useTask(): Task {
  const { message } = App.useApp();
  // The request is tried whatever the browser thinks of the network: what it then says is what can be told.
  const { isPending, error, mutateAsync, reset } = useMutation({
    mutationFn: (work: () => Promise<void>) => work(),
    networkMode: 'always',
  });
  const run: Task['run'] = async (work, done, onDone) => {
    let answer: Awaited<ReturnType<typeof work>> | undefined;
    const doing = mutateAsync(async () => {
      const given = await work();
      if (done) void message.success(done(given));
      onDone?.(given);
      answer = given;
    });
    return doing.then(
      () => answer,
      () => undefined, // `error` has it
    );
  };
  return { isBusy: isPending, error, clear: reset, run };
}
