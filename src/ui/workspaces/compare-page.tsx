'use client';

import { sameData } from '@/core/values';
import type { Difference, DifferenceSection } from '@/core/intake';
import type { ModelRehearsal, RecordDifference } from '@/core/api';
import { useQuery } from '@tanstack/react-query';
import { Button, Checkbox } from 'antd';
import { useMemo, useState } from 'react';
import { callApi, callText, apiPath } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { Link } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { WouldDo } from '@/ui/model/dialogs/would-do';
import { usePerson } from '@/ui/api/person';
import { RecordDifferences } from './record-differences';
import { BundleChoice, type ChosenBundle } from './bundle-dialog';
import { clsx } from 'clsx';
import style from './compare-page.module.css';
import workspacesStyle from './workspaces.module.css';

interface Comparison {
  readonly from: string;
  readonly differences: readonly Difference[];
  readonly records: readonly RecordDifference[];
  readonly version: number;
}

/** Compares the workspace with a bundle; what is chosen is rehearsed, and taken over in one go. */
export function ComparePage() {
  const [bundle, setBundle] = useState<ChosenBundle | null>(null);
  return (
    <>
      <header className="place-head">
        <h1>
          <Link href="/model">Model</Link> <span className="quiet">›</span> Compare with a bundle
        </h1>
        <span className="place-lead">
          See what another workspace has otherwise, and take over what you choose.
        </span>
      </header>
      <div className="place-body">
        <BundleChoice chosen={bundle} onChosen={setBundle} />
        {bundle ? <Compared key={`${bundle.file} ${bundle.text.length}`} bundle={bundle} /> : null}
      </div>
    </>
  );
}

function Compared({ bundle }: { bundle: ChosenBundle }) {
  const comparison = useQuery({
    queryKey: ['bundle', 'comparison', bundle.text],
    queryFn: () => callText<Comparison>(apiPath('/bundle-comparisons'), bundle.text, null),
    gcTime: 0,
    staleTime: 0,
    retry: false,
  });
  if (comparison.error) return <ProblemNotice error={comparison.error} />;
  if (!comparison.data) return <Loading what="what is different" />;
  const { differences, records } = comparison.data;
  return (
    <>
      {differences.length === 0 ? (
        <div className="sheet nothing">
          <strong>{records.length === 0 ? 'Nothing is different' : 'Only records are different'}</strong>
          The model, rules, selections and lists of this workspace and of the bundle are alike.
        </div>
      ) : (
        <Differences key={comparison.dataUpdatedAt} bundle={bundle} comparison={comparison.data} />
      )}
      {records.length > 0 ? (
        <RecordDifferences
          key={`records ${comparison.dataUpdatedAt}`}
          text={bundle.text}
          records={records}
          onDone={() => void comparison.refetch()}
        />
      ) : null}
    </>
  );
}

const SECTIONS: readonly { readonly key: DifferenceSection; readonly name: string }[] = [
  { key: 'optionLists', name: 'Option lists' },
  { key: 'types', name: 'Types' },
  { key: 'fields', name: 'Fields and links' },
  { key: 'selections', name: 'Selections' },
  { key: 'rules', name: 'Rules' },
  { key: 'lists', name: 'Lists' },
  { key: 'families', name: 'Sample families' },
  { key: 'proofs', name: 'Proofs' },
  { key: 'requests', name: 'Requests' },
];

const KINDS: Record<Difference['kind'], string> = {
  new: 'new in the bundle',
  changed: 'changed',
  gone: 'not in the bundle',
  conflict: 'can’t be taken over',
};

/** A rule that only the workspace has isn't removed by a bundle: it may be live, and its history needs it. */
const canChoose = ({ kind, section }: Difference): boolean =>
  kind !== 'conflict' && !(section === 'rules' && kind === 'gone');

function Differences({ bundle, comparison }: { bundle: ChosenBundle; comparison: Comparison }) {
  const { differences, version, from } = comparison;
  const person = usePerson();
  const forget = useInvalidate();
  // What would remove something isn't taken over unless somebody says so.
  const [chosen, setChosen] = useState<ReadonlySet<string>>(
    () => new Set(differences.filter((one) => canChoose(one) && one.kind !== 'gone').map(({ id }) => id)),
  );
  const { run, isBusy, error } = useTask();
  const ids = useMemo(() => [...chosen].sort(), [chosen]);
  const rehearsal = useQuery({
    queryKey: ['bundle', 'rehearsal', bundle.text.length, version, ids],
    queryFn: () =>
      callApi<ModelRehearsal>('/bundle-rehearsals', {
        method: 'POST',
        body: { bundle: bundle.text, chosen: ids },
      }),
    enabled: ids.length > 0,
    gcTime: 0,
    staleTime: 0,
    retry: false,
  });
  const isReady = ids.length > 0 && rehearsal.data?.isPossible === true && !rehearsal.isFetching;
  const apply = () =>
    run(
      async () => {
        await callApi('/bundle-merges', {
          method: 'POST',
          person: person.id,
          body: { bundle: bundle.text, chosen: ids, version },
        });
        await forget.everything();
      },
      () => 'Taken over. Rules came as drafts.',
    );
  const put = (id: string, isChosen: boolean) => {
    const next = new Set(chosen);
    if (isChosen) next.add(id);
    else next.delete(id);
    setChosen(next);
  };
  return (
    <div className={style.compareBody}>
      <div>
        {SECTIONS.map(({ key, name }) => {
          const own = differences.filter((one) => one.section === key);
          return own.length > 0 ? (
            <section key={key} className={clsx('sheet', workspacesStyle.compareSection)} aria-label={name}>
              <h2>{name}</h2>
              {own.map((one) => (
                <DifferenceRow
                  key={one.id}
                  difference={one}
                  isChosen={chosen.has(one.id)}
                  onChoose={(isChosen) => put(one.id, isChosen)}
                />
              ))}
            </section>
          ) : null;
        })}
      </div>
      <section className={clsx('sheet', style.compareDoing)} aria-label="Taking over">
        <p>
          <strong>{ids.length}</strong> of {differences.length} differences from “{from}” are chosen. Rules
          come as drafts: nothing of theirs changes until you take them live.
        </p>
        {ids.length > 0 ? (
          <WouldDo
            rehearsal={rehearsal.data ?? null}
            error={rehearsal.error}
            isCurrent={!rehearsal.isFetching}
          />
        ) : null}
        <ProblemNotice error={error} />
        <Button type="primary" disabled={!isReady} loading={isBusy} onClick={() => void apply()}>
          Take over {ids.length} {ids.length === 1 ? 'difference' : 'differences'}
        </Button>
      </section>
    </div>
  );
}

function DifferenceRow({
  difference,
  isChosen,
  onChoose,
}: {
  difference: Difference;
  isChosen: boolean;
  onChoose: (isChosen: boolean) => void;
}) {
  const { name, kind, before, after, reason } = difference;
  const [isOpen, setOpen] = useState(false);
  return (
    <div className={workspacesStyle.difference}>
      <Checkbox
        checked={isChosen}
        disabled={!canChoose(difference)}
        onChange={(event) => onChoose(event.target.checked)}
      >
        {name}
      </Checkbox>{' '}
      <span className="quiet">{KINDS[kind]}</span>
      <button type="button" className="plain part" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
        {isOpen ? 'close' : 'look'}
      </button>
      {reason ? <p className="flags">{reason}</p> : null}
      {isOpen ? <Sides before={before} after={after} /> : null}
    </div>
  );
}

/** Both sides, part by part; parts that are alike are left out. */
function Sides({ before, after }: { before: string | null; after: string | null }) {
  const [was, is] = [before, after].map(
    (text) => (text === null ? {} : JSON.parse(text)) as Record<string, unknown>,
  ) as [Record<string, unknown>, Record<string, unknown>];
  const keys = [...new Set([...Object.keys(was), ...Object.keys(is)])].filter(
    (key) => !sameData(was[key], is[key]),
  );
  const words = (value: unknown) =>
    value === undefined ? '–' : typeof value === 'string' ? value : JSON.stringify(value, null, 1);
  return (
    <table className={style.differenceSides}>
      <thead>
        <tr>
          <th scope="col">Part</th>
          <th scope="col">Here</th>
          <th scope="col">In the bundle</th>
        </tr>
      </thead>
      <tbody>
        {keys.map((key) => (
          <tr key={key}>
            <th scope="row">{key}</th>
            <td>{words(was[key])}</td>
            <td>{words(is[key])}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
