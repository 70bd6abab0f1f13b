'use client';

import { sameData } from '@/core/values';
import { stateWords } from './state-words';
import { RuleSentence } from './editors/rule-sentence';
import { compileRule, proposedName, type RuleDefinition } from '@/core/rules';
import { type Explanation } from '@/core/verify';
import { type ModelView, type RequestView, type RuleVersionView, type RuleView } from '@/core/api';
import { App, Input, Segmented } from 'antd';
import { useMemo, useState } from 'react';
import { useSearchParams } from 'next/navigation';
import { useTask } from '@/ui/kit/use-task';
import { Link, useRouter } from '@/ui/kit/navigation';
import { callApi } from '@/ui/api/client';
import {
  useInvalidate,
  modelOf,
  useModelView,
  usePeople,
  useRequests,
  useRule,
  useRules,
} from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problem-notice';
import { StateTag } from '@/ui/kit/state-tag';
import { RequestsOfRule } from '@/ui/requests/requests-of-rule';
import { usePerson } from '@/ui/api/person';
import { KindGlyph } from '@/ui/theme/glyphs';
import { definitionOf, type Draft, draftOf, newDraft } from './drafts/drafts';
import { LivePreviewDialog } from './preview/live-preview';
import { OtherParents } from './preview/other-parents';
import { RetiredRule } from './retired-rule';
import { Findings, useFindings } from './quality/findings';
import { ProofsPart } from './quality/proofs-part';
import { VersionsPart } from './versions-part';
import { WorkedExample } from './preview/worked-example';
import { LaterNote, RuleActions, type Saving } from './rule-actions';
import { clsx } from 'clsx';
import rulesStyle from './rules.module.css';
import style from './rule-page.module.css';

/** A rule being written: its sentence, beside it a worked example. `id` is null for a new one. */
export function RulePage({ id }: { id: string | null }) {
  const rule = useRule(id);
  const model = useModelView();
  const rules = useRules();
  const problem = rule.error ?? model.error ?? rules.error;
  if (problem) {
    return (
      <div className="place-body">
        <ProblemNotice error={problem} />
        <p>
          <Link href="/rules">Back to the rules</Link>
        </p>
      </div>
    );
  }
  if (!model.data || !rules.data || (id !== null && !rule.data)) return <Loading what="the rule" />;
  if (rule.data?.state === 'retired') return <RetiredRule rule={rule.data} />;
  return <RuleEditor key={`${id}`} rule={rule.data ?? null} model={model.data} rules={rules.data.rules} />;
}

interface EditorProps {
  readonly rule: RuleView | null;
  readonly model: ModelView;
  readonly rules: readonly RuleView[];
}

interface Written {
  readonly draft: Draft;
  readonly name: string;
  readonly note: string;
}

/** Whether two definitions say the same. */
const sameDefinition = (a: RuleDefinition | null, b: RuleDefinition | null) =>
  a && b ? sameData(draftOf(a), draftOf(b)) : a === b;

function RuleEditor({ rule, model: view, rules }: EditorProps) {
  const { message } = App.useApp();
  const model = useMemo(() => modelOf(view), [view]);
  const people = usePeople();
  const nameOf = (id: string) => people.data?.people.find((person) => person.id === id)?.name;
  const stored: Written = rule
    ? { draft: draftOf(rule.definition), name: rule.name, note: rule.note }
    : { draft: newDraft('rollUp'), name: '', note: '' };
  const [written, setWritten] = useState(stored);
  const [isPreviewing, setPreviewing] = useState(false);
  const [explained, setExplained] = useState<Explanation | null>(null);
  const definition = definitionOf(written.draft);
  const compiled = definition
    ? compileRule(model, { id: rule?.id ?? 'new', version: '', name: written.name, definition })
    : null;
  const proposed = compiled?.ok ? proposedName(model, compiled.rule, nameOf) : 'New rule';
  const found = useFindings({ view, rules, rule, name: written.name || proposed, definition });
  const { problems } = found;
  const isChanged =
    !sameData(stored, written) &&
    !(
      rule &&
      sameDefinition(rule.definition, definition) &&
      // Without a name of its own it is saved under the one that is proposed.
      stored.name === (written.name.trim() || proposed) &&
      stored.note === written.note
    );
  const takeBack = (version: RuleVersionView) => {
    setWritten({ ...written, draft: draftOf(version.definition) });
    message.info(`As in version ${version.number}. Save it to keep it, then take it live.`);
    window.scrollTo({ top: 0 });
  };
  const asked = useSearchParams().get('request');
  const requests = useRequests();
  const request = rule ? null : (requests.data?.requests.find((one) => one.id === asked) ?? null);
  const saving = useSaving(rule, definition, written, proposed, request);
  const canSave = definition !== null && (compiled?.ok ?? false) && (rule === null || isChanged);
  return (
    <>
      <header className="place-head">
        <KindGlyph kind={written.draft.kind} size={24} />
        <h1 title={written.name || proposed}>{rule ? written.name || proposed : 'A new rule'}</h1>
        {rule ? <StateTag state={rule.state} isPilot={rule.pilot !== null} /> : <StateTag state="draft" />}
        {rule?.hasChangesNotLive ? <span className="state-tag">Change not live</span> : null}
        <RuleActions
          rule={rule}
          canSave={canSave}
          isChanged={isChanged}
          saving={saving}
          hasProblems={problems.length > 0}
          onPreview={() => setPreviewing(true)}
        />
      </header>
      <div className={clsx('place-body', style.ruleColumns)}>
        <div className={style.ruleWriting}>
          {request ? (
            <p className="advice">
              For the request <Link href={`/requests/${request.id}`}>{request.name}</Link>
              {request.words ? `: “${request.words}”` : ''}
            </p>
          ) : null}
          <section className={clsx('sheet', style.sentenceSheet)} aria-label="The rule">
            {rule ? null : (
              <KindChoice draft={written.draft} onChange={(draft) => setWritten({ ...written, draft })} />
            )}
            <RuleSentence
              {...{ model, nameOf, problems, keepers: view.keepers, ruleId: rule?.id ?? null }}
              draft={written.draft}
              pieces={explained?.formula?.pieces ?? []}
              onChange={(draft) => setWritten({ ...written, draft })}
            />
          </section>
          <Findings findings={found} onFix={(fixed) => setWritten({ ...written, draft: draftOf(fixed) })} />
          <ProblemNotice error={saving.problem} />
          <section className={clsx('sheet', rulesStyle.ruleAbout)} aria-label="About the rule">
            <label>
              <span className="quiet">Name</span>
              <Input
                value={written.name}
                placeholder={proposed}
                maxLength={200}
                onChange={(event) => setWritten({ ...written, name: event.target.value })}
              />
            </label>
            <label>
              <span className="quiet">Note: who asked for it, and why</span>
              <Input.TextArea
                value={written.note}
                autoSize={{ minRows: 2, maxRows: 6 }}
                onChange={(event) => setWritten({ ...written, note: event.target.value })}
              />
            </label>
            {rule ? <RequestsOfRule rule={rule.id} /> : null}
          </section>
          <OtherParents
            {...{ model, definition, rules, note: written.note }}
            isBusy={saving.isBusy}
            run={saving.run}
          />
          <p className={clsx('quiet', style.ruleMeans)}>{stateWords(rule)}</p>
          {rule ? <ProofsPart rule={rule} /> : null}
          {rule ? <VersionsPart rule={rule} onTakeBack={takeBack} /> : null}
          {rule?.later ? <LaterNote rule={rule} later={rule.later} saving={saving} /> : null}
        </div>
        <WorkedExample
          model={model}
          type={written.draft.of.type}
          onExplained={setExplained}
          definition={compiled?.ok ? definition : null}
          ruleId={rule?.id ?? null}
          name={written.name || proposed}
        />
      </div>
      {rule && isPreviewing ? <LivePreviewDialog rule={rule} onClose={() => setPreviewing(false)} /> : null}
    </>
  );
}

const KINDS: readonly { value: Draft['kind']; label: string; does: string }[] = [
  { value: 'rollUp', label: 'Roll-up', does: 'Fills a field from the records beneath.' },
  { value: 'formula', label: 'Formula', does: 'Fills a field from an expression.' },
  { value: 'cascade', label: 'Cascade', does: 'Hands values of a record on to others.' },
  { value: 'create', label: 'Create', does: 'Makes another record for a record.' },
  { value: 'link', label: 'Link', does: 'Links a record to the right one.' },
];

/** Which kind of rule is written: another one starts the sentence again. */
function KindChoice({ draft, onChange }: { draft: Draft; onChange: (draft: Draft) => void }) {
  return (
    <div className={style.ruleKind}>
      <Segmented
        aria-label="Kind of rule"
        value={draft.kind}
        options={KINDS.map(({ value, label }) => ({ value, label }))}
        onChange={(kind) => onChange(newDraft(kind))}
      />
      <span>{KINDS.find(({ value }) => value === draft.kind)?.does}</span>
    </div>
  );
}

function useSaving(
  rule: RuleView | null,
  definition: RuleDefinition | null,
  written: Written,
  proposed: string,
  /** The request for which a new rule is written. */
  request: RequestView | null,
): Saving {
  const person = usePerson();
  const forget = useInvalidate();
  const router = useRouter();
  const { isBusy, error: problem, run: start } = useTask();
  const run: Saving['run'] = (work) =>
    start(async () => {
      const done = await work(person.id);
      await forget.everything();
      return done;
    }, null);
  const save = () =>
    run(async (id) => {
      const { name, note } = written;
      const body = { definition, name: name || proposed, note };
      if (rule)
        return callApi<RuleView>(`/rules/${rule.id}`, {
          method: 'PATCH',
          body: { ...body, version: rule.version },
          person: id,
        });
      const made = await callApi<RuleView>('/rules', { method: 'POST', body, person: id });
      if (request)
        await callApi(`/requests/${request.id}`, {
          method: 'PATCH',
          body: { version: request.version, rules: [...request.rules.map((one) => one.id), made.id] },
          person: id,
        });
      router.replace(`/rules/${made.id}`);
      return made;
    });
  return { isBusy, problem, run, save };
}
