'use client';

import { Popover } from 'antd';
import { MayButton } from '@/ui/kit/may-button';
import { callApi } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { usePerson } from '@/ui/api/person';

/** Asks the rate service for rates that aren't there yet; what it can't do is told beside the button. */
export function FetchRates() {
  const person = usePerson();
  const forget = useInvalidate();
  const { isBusy, error, run } = useTask();
  const fetch = () =>
    run(
      async () => {
        const call = { method: 'POST', person: person.id } as const;
        const fetched = await callApi<{ made: number }>('/rates', call);
        await forget.records();
        return fetched;
      },
      ({ made }) => (made === 0 ? 'All rates are here already.' : `${made} rates are added.`),
    );
  return (
    <Popover open={error !== null} placement="bottomRight" content={<ProblemNotice error={error} />}>
      <MayButton right="edit" loading={isBusy} onClick={() => void fetch()}>
        Fetch rates
      </MayButton>
    </Popover>
  );
}
