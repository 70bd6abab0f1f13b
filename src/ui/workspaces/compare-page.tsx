'use client';

import { sameData } from '@/core/values';
import type { Bundle, Difference, DifferenceSection } from '@/core/intake';
import { readModel } from '@/core/model';
import { compileRule, sentenceOf } from '@/core/rules';
import type { ModelRehearsal, RecordDifference } from '@/core/api';
import { useQuery } from '@tanstack/react-query';
import { Button, Checkbox, Dropdown, Select } from 'antd';
import { useSearchParams } from 'next/navigation';
import { useMemo, useState } from 'react';
import { callApi, callServer, callText, apiPath } from '@/ui/api/client';
import { useInvalidate, useRules, useWorkspaces } from '@/ui/api/queries';
import { ChangedWords } from '@/ui/kit/changed-words';
import { Loading } from '@/ui/kit/loading';
import { Link, placePath, useRouter, useWorkspaceKey } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { WouldDo } from '@/ui/model/dialogs/would-do';
import { usePerson } from '@/ui/api/person';
import { RecordDifferences } from './record-differences';
import { BundleChoice, type ChosenBundle, readChosen } from './bundle-dialog';
import { clsx } from 'clsx';
import style from './compare-page.module.css';
import workspacesStyle from './workspaces.module.css';

interface Comparison {
  readonly from: string;
  readonly differences: readonly Difference[];
  readonly records: readonly RecordDifference[];
  readonly version: number;
}

/** Compares the workspace with another or a bundle; what is chosen is rehearsed, and taken over in one go. */
export function ComparePage() {
  const query = useSearchParams();
  const router = useRouter();
  const workspace = useWorkspaceKey();
  const { data } = useWorkspaces();
  const other = query.get('with');
  const withRecords = query.get('records') === 'true';
  const [file, setFile] = useState<ChosenBundle | null>(null);
  const there = useBundleOf(file ? null : other, withRecords);
  const bundle = file ?? there.data ?? null;
  const others = (data?.workspaces ?? []).filter(({ key }) => key !== workspace);
  const go = (key: string, records: boolean) => {
    setFile(null);
    router.replace(`/compare?with=${encodeURIComponent(key)}${records ? '&records=true' : ''}`);
  };
  return (
    <>
      <header className="place-head">
        <h1>
          <Link href="/model">Model</Link> <span className="quiet">›</span> Compare
        </h1>
        <span className="place-lead">
          See what another workspace has otherwise, and take over what you choose.
        </span>
        <div className="place-actions">
          <Dropdown
            trigger={['click']}
            disabled={others.length === 0}
            menu={{
              items: others.map(({ key, name }) => ({ key, label: name })),
              // A whole new page: nothing that is shown of one workspace lives on in another.
              onClick: ({ key }) => location.assign(placePath(key, `/compare?with=${workspace}`)),
            }}
          >
            <Button>Bring from here to …</Button>
          </Dropdown>
        </div>
      </header>
      <div className="place-body">
        <div className={style.compareWith}>
          <Select
            aria-label="Another workspace"
            placeholder="Another workspace"
            value={file ? null : other}
            options={others.map(({ key, name }) => ({ value: key, label: name }))}
            onChange={(key: string) => go(key, withRecords)}
            showSearch={{ optionFilterProp: 'label' }}
            style={{ width: 280 }}
          />
          <Checkbox
            checked={withRecords}
            disabled={!other || file !== null}
            onChange={(event) => go(other ?? '', event.target.checked)}
          >
            Its records too
          </Checkbox>
          <span className="quiet">or a bundle:</span>
        </div>
        <BundleChoice chosen={file} onChosen={setFile} />
        <ProblemNotice error={file ? null : there.error} />
        {there.isLoading ? <Loading what="the other workspace" /> : null}
        {bundle ? <Compared key={`${bundle.file} ${bundle.text.length}`} bundle={bundle} /> : null}
      </div>
    </>
  );
}

/** Another workspace as a bundle, as it is now. */
const useBundleOf = (workspace: string | null, withRecords: boolean) =>
  useQuery({
    queryKey: ['bundle', 'of', workspace, withRecords],
    queryFn: async () => {
      const bundle = await callServer<{ workspace: { name: string } }>(
        `/api/v1/workspaces/${workspace}/bundle?records=${withRecords}`,
      );
      return readChosen(bundle.workspace.name, JSON.stringify(bundle));
    },
    enabled: workspace !== null,
    gcTime: 0,
    staleTime: 0,
    retry: false,
  });

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
          The model, rules, selections and lists are alike here and there.
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
  new: 'only there',
  changed: 'changed',
  gone: 'only here',
  conflict: 'can’t be taken over',
};

/** A rule that only the workspace has isn't removed by a bundle: it may be live, and its history needs it. */
const canChoose = ({ kind, section }: Difference): boolean =>
  kind !== 'conflict' && !(section === 'rules' && kind === 'gone');

function Differences({ bundle, comparison }: { bundle: ChosenBundle; comparison: Comparison }) {
  const { differences, version, from } = comparison;
  const sentences = useSentences(bundle);
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
                  sentence={sentences.get(one.id) ?? null}
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

/** A rule as a sentence here and there; empty where it isn't. */
interface BothSentences {
  readonly here: string;
  readonly there: string;
}

/** Rules of the workspace and of the bundle as sentences, each in its own model; what can't be told as one is left out. */
function useSentences(bundle: ChosenBundle): ReadonlyMap<string, BothSentences> {
  const rules = useRules();
  return useMemo(() => {
    const here = new Map((rules.data?.rules ?? []).map(({ id, sentence }) => [id, sentence]));
    const { types, optionLists: lists, selections, rules: others, ...of } = JSON.parse(bundle.text) as Bundle;
    const model = readModel({ ...of.workspace, types, lists, selections }, of.workspace.settledDay);
    return new Map(
      others.flatMap(({ id, name, definition }) => {
        const compiled = compileRule(model, { id, version: id, name, definition });
        if (!compiled.ok) return [];
        const there = sentenceOf(model, compiled.rule);
        return [[`rules ${id}`, { here: here.get(id) ?? '', there }] as const];
      }),
    );
  }, [rules.data, bundle.text]);
}

function DifferenceRow({
  difference,
  sentence,
  isChosen,
  onChoose,
}: {
  difference: Difference;
  /** Of a rule. */
  sentence: BothSentences | null;
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
      {sentence ? (
        <p className={style.sentences}>
          <ChangedWords before={sentence.here} after={sentence.there} />
        </p>
      ) : null}
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
          <th scope="col">There</th>
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
