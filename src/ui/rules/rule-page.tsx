'use client';

import { sameData } from '@/core/values';
import { stateWords } from './state-words';
import { RuleSentence } from './editors/rule-sentence';
import { compileRule, nameKey, proposedName, type RuleDefinition, ruleOnType } from '@/core/rules';
import type { Model } from '@/core/model';
import { type Explanation } from '@/core/verify';
import { type ModelView, type RequestView, type RuleVersionView, type RuleView } from '@/core/api';
import { App, Segmented } from 'antd';
import { useMemo, useRef, useState } from 'react';
import { useSearchParams } from 'next/navigation';
import { useTask } from '@/ui/kit/hooks/use-task';
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
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { usePerson } from '@/ui/api/person';
import { KindGlyph } from '@/ui/theme/glyphs';
import { definitionOf, type Draft, draftOf, newDraft } from './drafts/drafts';
import { AboutRule } from './about-rule';
import { LivePreviewDialog } from './preview/live-preview';
import { OtherParents } from './preview/other-parents';
import { BegunOffers, useBegun } from './begun-offers';
import type { Written } from './drafts/begun';
import { UnfinishedOffers, useUnfinished } from './unfinished';
import { hasOpenTests, withoutOpenTests } from '@/ui/expression/open-tests';
import { HowItStands } from './how-it-stands';
import { RetiredRule } from './retired-rule';
import { Findings, useFindings } from './quality/findings';
import { ProofsPart } from './quality/proofs-part';
import { VersionsPart } from './versions-part';
import { WorkedExample } from './preview/worked-example';
import { LaterNote, RuleActions, type Saving } from './rule-actions';
import { clsx } from 'clsx';
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

/** Whether two definitions say the same. */
const sameDefinition = (a: RuleDefinition | null, b: RuleDefinition | null) =>
  a && b ? sameData(draftOf(a), draftOf(b)) : a === b;

/** What is kept of a rule, as it is written; of a new one what it begins with. */
function storedOf(
  model: Model,
  rule: RuleView | null,
  rules: readonly RuleView[],
  query: Pick<URLSearchParams, 'get'>,
): Written {
  if (rule) return { draft: draftOf(rule.definition), name: rule.isNamed ? rule.name : '', note: rule.note };
  const copied = rules.find(({ id }) => id === query.get('copy'));
  return { draft: firstDraft(model, copied, query.get('type')), name: '', note: copied?.note ?? '' };
}

/** A new rule: a copy of another for a type (`?copy=…&type=loan`), or a roll-up, on a type where one is asked for (`?type=loan`). */
function firstDraft(model: Model, copied: RuleView | undefined, type: string | null): Draft {
  if (copied)
    return draftOf(
      type !== null && model.type(type)
        ? ruleOnType(model, copied.definition, type).definition
        : copied.definition,
    );
  const draft = newDraft('rollUp');
  return draft.kind === 'rollUp' && type !== null && model.type(type)
    ? { ...draft, of: { ...draft.of, type } }
    : draft;
}

function RuleEditor({ rule, model: view, rules }: EditorProps) {
  const { message } = App.useApp();
  const model = useMemo(() => modelOf(view), [view]);
  const people = usePeople();
  const nameOf = (id: string) => people.data?.people.find((person) => person.id === id)?.name;
  const query = useSearchParams();
  const stored = storedOf(model, rule, rules, query);
  const [written, setWritten] = useState(stored);
  const [isPreviewing, setPreviewing] = useState(false);
  const [explained, setExplained] = useState<Explanation | null>(null);
  const whole = definitionOf(written.draft);
  // A test that was only just added is open, not wrong: all else goes on without it.
  const isOpen = whole !== null && hasOpenTests(whole);
  const definition = isOpen ? withoutOpenTests(whole) : whole;
  const compiled = definition
    ? compileRule(model, { id: rule?.id ?? 'new', version: '', name: written.name, definition })
    : null;
  const taken = useMemo(
    () => new Set(rules.filter(({ id }) => id !== rule?.id).map(({ name }) => nameKey(name))),
    [rules, rule],
  );
  const proposed = compiled?.ok ? proposedName(model, compiled.rule, taken) : (rule?.name ?? 'New rule');
  const found = useFindings({ view, rules, rule, name: written.name || proposed, definition });
  const { problems } = found;
  const isChanged =
    !sameData(stored, written) &&
    !(
      rule &&
      sameDefinition(rule.definition, whole) &&
      stored.name === written.name.trim() &&
      stored.note === written.note
    );
  const begun = useBegun(rule?.id ?? null, written, isChanged);
  const takeBack = (version: RuleVersionView) => {
    setWritten({ ...written, draft: draftOf(version.definition) });
    message.info(`As in version ${version.number}. Save it to keep it, then take it live.`);
    window.scrollTo({ top: 0 });
  };
  const asked = query.get('request');
  const requests = useRequests();
  const request = rule ? null : (requests.data?.requests.find((one) => one.id === asked) ?? null);
  const task = useSaving(rule, definition, written, request);
  const unfinished = useUnfinished(rule?.id ?? null, written, setWritten, task);
  const ended = async (person: string | null) => {
    begun.end();
    await unfinished.end(person);
  };
  const saving: Saving = { ...task, save: () => task.save(ended) };
  const canSave = definition !== null && !isOpen && (compiled?.ok ?? false) && (rule === null || isChanged);
  return (
    <>
      <header className="place-head">
        <KindGlyph kind={written.draft.kind} size={24} />
        <h1 title={written.name || proposed}>{rule ? written.name || proposed : 'A new rule'}</h1>
        <HowItStands {...{ rule, definition }} />
        <RuleActions
          rule={rule}
          canSave={canSave}
          isChanged={isChanged}
          saving={saving}
          {...(isChanged && !canSave ? { onKeep: unfinished.keep } : {})}
          hasProblems={problems.length > 0}
          onPreview={() => setPreviewing(true)}
        />
      </header>
      <div className={clsx('place-body', style.ruleColumns)}>
        <div className={style.ruleWriting}>
          <BegunOffers
            offers={begun.offers}
            onTake={(one) => {
              begun.take(one);
              setWritten({ draft: one.draft, name: one.name, note: one.note });
            }}
            onForget={begun.take}
          />
          <UnfinishedOffers {...{ unfinished, saving }} />
          {request ? <ForRequest request={request} /> : null}
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
          {isOpen ? <OpenCondition /> : null}
          <Findings findings={found} onFix={(fixed) => setWritten({ ...written, draft: draftOf(fixed) })} />
          <ProblemNotice error={saving.problem} />
          <AboutRule
            {...{ rule, rules, model, written, proposed }}
            onChange={(part) => setWritten({ ...written, ...part })}
          />
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

const ForRequest = ({ request }: { request: RequestView }) => (
  <p className="advice">
    For the request <Link href={`/requests/${request.id}`}>{request.name}</Link>
    {request.words ? `: “${request.words}”` : ''}
  </p>
);

const OpenCondition = () => (
  <p className="advice" role="status">
    A condition isn’t whole yet: choose what it compares with, or take it out. The example goes on without it.
  </p>
);

const KINDS: readonly { value: Draft['kind']; label: string; does: string }[] = [
  { value: 'rollUp', label: 'Roll-up', does: 'Fills a field from the records beneath.' },
  { value: 'formula', label: 'Formula', does: 'Fills a field from an expression.' },
  { value: 'cascade', label: 'Cascade', does: 'Hands values of a record on to others.' },
  { value: 'create', label: 'Create', does: 'Makes another record for a record.' },
  { value: 'link', label: 'Link', does: 'Links a record to the right one.' },
];

/** Which kind of rule is written. What was written of another stays, for whoever comes back to it. */
function KindChoice({ draft, onChange }: { draft: Draft; onChange: (draft: Draft) => void }) {
  const written = useRef(new Map<Draft['kind'], Draft>());
  return (
    <div className={style.ruleKind}>
      <Segmented
        aria-label="Kind of rule"
        value={draft.kind}
        options={KINDS.map(({ value, label }) => ({ value, label }))}
        onChange={(kind) => {
          written.current.set(draft.kind, draft);
          onChange(written.current.get(kind) ?? newDraft(kind));
        }}
      />
      <span>{KINDS.find(({ value }) => value === draft.kind)?.does}</span>
    </div>
  );
}

interface RuleSaving extends Omit<Saving, 'save'> {
  /** With what else is to be done once it is saved. */
  readonly save: (onSaved: (person: string | null) => Promise<void>) => Promise<RuleView | undefined>;
}

function useSaving(
  rule: RuleView | null,
  definition: RuleDefinition | null,
  written: Written,
  /** The request for which a new rule is written. */
  request: RequestView | null,
): RuleSaving {
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
  const save: RuleSaving['save'] = (onSaved) =>
    run(async (id) => {
      const { name, note } = written;
      const body = { definition, name: name.trim(), note };
      if (rule) {
        const changed = await callApi<RuleView>(`/rules/${rule.id}`, {
          ...{ method: 'PATCH', body: { ...body, version: rule.version }, person: id },
        });
        await onSaved(id);
        return changed;
      }
      const made = await callApi<RuleView>('/rules', { method: 'POST', body, person: id });
      if (request)
        await callApi(`/requests/${request.id}`, {
          method: 'PATCH',
          body: { version: request.version, rules: [...request.rules.map((one) => one.id), made.id] },
          person: id,
        });
      await onSaved(id);
      router.replace(`/rules/${made.id}`);
      return made;
    });
  return { isBusy, problem, run, save };
}
