import { APPROVED, type TwoPeopleKind } from '@/core/api';
import { Checkbox } from 'antd';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useInvalidate } from '@/ui/api/queries';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { clsx } from 'clsx';
import { begun } from './begun';
import style from './settings.module.css';

interface TwoPeopleProps {
  readonly twoPeople: readonly TwoPeopleKind[];
  /** Why whoever acts may change nothing of it. */
  readonly whyNot: string | null;
}

const KINDS = (Object.keys(APPROVED) as TwoPeopleKind[]).map((value) => ({
  ...{ value, label: begun(APPROVED[value]) },
}));

/** What somebody else approves before it is done. That it is for less, somebody else approves too. */
export function TwoPeople({ twoPeople, whyNot }: TwoPeopleProps) {
  const { id: person } = usePerson();
  const invalidate = useInvalidate();
  const task = useTask();
  const change = (kinds: readonly TwoPeopleKind[]) =>
    void task.run(
      () => callApi('/two-people', { method: 'POST', body: { kinds }, person }),
      () =>
        kinds.length === 0
          ? 'Nobody else need approve anything any more'
          : 'From now on somebody else approves it',
      () => void invalidate.everything(),
    );
  return (
    <section className={clsx('sheet', style.sheet)} aria-labelledby="two-people">
      <div className="sheet-head">
        <h2 id="two-people">Two people</h2>
        <span className="quiet">
          What somebody else who may approves, exactly as it was asked for, before it is done.
        </span>
      </div>
      <div className={style.part}>
        <Checkbox.Group
          className={style.rights}
          aria-labelledby="two-people"
          options={KINDS}
          value={[...twoPeople]}
          disabled={whyNot !== null || task.isBusy}
          onChange={change}
        />
        <ProblemNotice error={task.error} />
      </div>
    </section>
  );
}
