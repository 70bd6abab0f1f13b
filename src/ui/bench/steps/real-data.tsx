'use client';

import type { Rehearsal } from '@/core/verify';
import type { RuleDefinition } from '@/core/rules';
import { useQuery } from '@tanstack/react-query';
import { Dialog } from '@/ui/kit/dialog';
import { callApi } from '@/ui/api/client';
import { counted } from '@/ui/kit/values/counted';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { Ripple } from '@/ui/kit/explain/ripple';
import { usePerson } from '@/ui/api/person';
import { editsOf, isSave, type Step } from './steps';

type Done = Extract<Rehearsal, { kind: 'done' }>;

interface RealDataProps {
  readonly steps: readonly Step[];
  readonly drafts: readonly {
    readonly id: string;
    readonly name: string;
    readonly definition: RuleDefinition;
  }[];
  readonly onClose: () => void;
}

/** The same edits on the real data, as one save: how much they would touch, and what would follow. Saves nothing, and holds nobody up. */
export function RealData({ steps, drafts, onClose }: RealDataProps) {
  const person = usePerson();
  const edits = editsOf(steps);
  const { data, error } = useQuery({
    queryKey: ['records', 'realData', edits, drafts],
    queryFn: () =>
      callApi<Done>('/rehearsals', { method: 'POST', body: { edits, drafts }, person: person.id }),
    gcTime: 0,
    retry: false,
  });
  const isSeveral = steps.some(isSave);
  return (
    <Dialog open width={760} title="On the real data" footer={null} onCancel={onClose}>
      {isSeveral ? (
        <p className="advice">
          The saves that are staged are taken together here, as one save that you make today.
        </p>
      ) : null}
      <ProblemNotice error={error} />
      {data ? <Touched done={data} /> : error ? null : <Loading what="what would happen" />}
    </Dialog>
  );
}

function Touched({ done: { ripple, filled } }: { done: Done }) {
  const changes = [...(filled?.waves ?? []), ...ripple.waves].flatMap((wave) => wave.changes);
  const records = new Set(changes.map(({ id }) => id)).size;
  const worked = ripple.cost.records + (filled?.cost.records ?? 0);
  const more = [...(filled?.many ?? []), ...ripple.many].reduce((sum, many) => sum + many.records, 0);
  return (
    <>
      <p>
        <strong>
          {`It would touch ${counted(records, 'record', 'records')}, ${counted(changes.length, 'value', 'values')}`}
          {more > 0 ? `, and ${counted(more, 'value', 'values')} more in one go` : ''}.
        </strong>{' '}
        <span className="quiet">
          {`${counted(worked, 'record was', 'records were')} worked out on the way. Nothing was saved, and nobody’s save waited.`}
        </span>
      </p>
      {filled && filled.waves.length > 0 ? (
        <Ripple ripple={filled} heading="Taking the drafts live" linked />
      ) : null}
      <Ripple ripple={ripple} linked />
    </>
  );
}
