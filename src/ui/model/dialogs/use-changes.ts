'use client';

import { certain } from '@/core/values';
import type { ModelChange } from '@/core/model';
import type { ModelRehearsal } from '@/core/api';
import { App } from 'antd';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { callApi } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { usePerson } from '@/ui/api/person';

const PAUSE = 250;

/** What changes would do, asked for once a person pauses; `null` changes: nothing to ask. While they are applied they aren't asked for again. */
export function useModelRehearsal(changes: readonly ModelChange[] | null, isApplying = false) {
  const text = changes ? JSON.stringify(changes) : null;
  const [asked, setAsked] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setAsked(text), PAUSE);
    return () => clearTimeout(timer);
  }, [text]);
  const query = useQuery({
    queryKey: ['model', 'rehearsal', asked],
    queryFn: () =>
      callApi<ModelRehearsal>('/model-rehearsals', {
        method: 'POST',
        body: { changes: JSON.parse(certain(asked)) as ModelChange[] },
      }),
    enabled: asked !== null && !isApplying,
    placeholderData: keepPreviousData,
    staleTime: 0,
    gcTime: 0,
  });
  // What is shown while a person types on belongs to what they typed before.
  const isCurrent = asked === text && !query.isFetching;
  return { rehearsal: text === null ? null : (query.data ?? null), error: query.error, isCurrent };
}

/** Applies changes of the model; what the whole interface knows of it is read again. */
export function useApplyChanges(version: number) {
  const person = usePerson();
  const forget = useInvalidate();
  const { message } = App.useApp();
  const [isBusy, setBusy] = useState(false);
  const [error, setError] = useState<Error | null>(null);
  const apply = async (
    changes: readonly ModelChange[],
    done: string,
    othersAct = false,
  ): Promise<boolean> => {
    setBusy(true);
    setError(null);
    try {
      await callApi('/model-changes', {
        method: 'POST',
        person: person.id,
        body: { changes, version, ...(othersAct ? { othersAct } : {}) },
      });
      await forget.everything();
      void message.success(done);
      return true;
    } catch (failure) {
      setError(failure as Error);
      return false;
    } finally {
      setBusy(false);
    }
  };
  return { apply, isBusy, error, forgetError: () => setError(null) };
}
