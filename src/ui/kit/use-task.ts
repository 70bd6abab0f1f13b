'use client';

import { App } from 'antd';
import { useState } from 'react';

export interface Task {
  readonly isBusy: boolean;
  /** What the last try was refused with. */
  readonly error: Error | null;
  /** Does something; says so once it is done, and goes on. Refused, it stays where it is. */
  run<T>(
    work: () => Promise<T>,
    done: ((answer: T) => string) | null,
    onDone?: (answer: T) => void,
  ): Promise<void>;
}

/** What a dialog or a button does: busy meanwhile, and with what was refused. */
export function useTask(): Task {
  const { message } = App.useApp();
  const [isBusy, setBusy] = useState(false);
  const [error, setError] = useState<Error | null>(null);
  const run: Task['run'] = async (work, done, onDone) => {
    setBusy(true);
    setError(null);
    try {
      const answer = await work();
      if (done) void message.success(done(answer));
      onDone?.(answer);
    } catch (failure) {
      setError(failure as Error);
    } finally {
      setBusy(false);
    }
  };
  return { isBusy, error, run };
}
