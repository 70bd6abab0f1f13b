'use client';

import { firstIn, type WireValue } from '@/core/values';
import type { ProposalDecided } from '@/core/api';
import { App } from 'antd';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { usePerson } from '@/ui/api/person';

export interface Decision {
  readonly id: string;
  readonly decision: 'approve' | 'refuse' | 'seen';
  readonly values?: Readonly<Record<string, WireValue>>;
  readonly reason?: string;
}

export interface Deciding {
  readonly isBusy: boolean;
  readonly error: Error | null;
  /** Proposals that couldn't be decided so, with why. */
  readonly problems: readonly ProposalDecided[];
  decide(decisions: readonly Decision[], onDone?: () => void): Promise<void>;
}

const DONE: Record<Decision['decision'], string> = { approve: 'Approved', refuse: 'Refused', seen: 'Seen' };

/** Decides proposals, and says what came of it; what can't be done stays open. */
export function useDeciding(): Deciding {
  const { message } = App.useApp();
  const person = usePerson();
  const forget = useInvalidate();
  const [isBusy, setBusy] = useState(false);
  const [error, setError] = useState<Error | null>(null);
  const [problems, setProblems] = useState<readonly ProposalDecided[]>([]);
  const decide: Deciding['decide'] = async (decisions, onDone) => {
    setBusy(true);
    setError(null);
    try {
      const { decided } = await callApi<{ decided: ProposalDecided[] }>('/proposals/decisions', {
        ...{ method: 'POST', body: { decisions }, person: person.id },
      });
      const refused = decided.filter(({ problem }) => problem !== null);
      setProblems(refused);
      await forget.records();
      const done = decided.length - refused.length;
      if (done > 0)
        message.success(
          done === 1
            ? `${DONE[firstIn(decisions).decision]}.`
            : `${done} ${DONE[firstIn(decisions).decision].toLowerCase()}.`,
        );
      if (refused.length === 0) onDone?.();
    } catch (failure) {
      setError(failure as Error);
    } finally {
      setBusy(false);
    }
  };
  return { isBusy, error, problems, decide };
}
