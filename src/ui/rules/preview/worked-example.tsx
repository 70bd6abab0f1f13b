'use client';

import { follow, type Model, readModel, typeIn } from '@/core/model';
import { compileRule, semanticKey, type RuleDefinition } from '@/core/rules';
import { certain, displayValue, type WireValue, writeCount } from '@/core/values';
import type { Explanation } from '@/core/verify';
import type { RecordView } from '@/core/api';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Select } from 'antd';
import { useEffect, useState } from 'react';
import { useFamilies, usePeople, useRecord } from '@/ui/api/queries';
import { DayChoice } from '@/ui/kit/values/date-input';
import { ValueInput } from '@/ui/kit/values/value-input';
import { ExplanationTable, MapTable, recordsWords, TreeTable } from '@/ui/kit/explain/explanation-table';
import { PiecesTable } from '@/ui/kit/explain/pieces-table';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useRuleWorker } from '@/ui/workers/use-rule-worker';
import type { Worked } from '@/ui/workers/rule-worker';
import { useTellingSample } from './use-telling-sample';
import { CascadeExample } from './cascade-example';
import { CreateExample } from './create-example';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';
import previewStyle from './preview.module.css';
import style from './worked-example.module.css';

export interface WorkedExampleProps {
  readonly model: Model;
  readonly type: string | null;
  /** `null` while the sentence isn't complete. */
  readonly definition: RuleDefinition | null;
  readonly ruleId: string | null;
  readonly name: string;
  /** Told what was worked out, for those who show parts of it elsewhere. */
  readonly onExplained?: (explanation: Explanation | null) => void;
}

/** A sample family beside the sentence, worked out again at every change by the core that the server runs. */
export function WorkedExample({ model, type, definition, ruleId, name, onExplained }: WorkedExampleProps) {
  const [chosen, setChosen] = useState<{ type: string; id: string } | null>(null);
  const { first, isEmpty } = useTellingSample(type, definition);
  const root = chosen && chosen.type === type ? chosen.id : first;
  const people = usePeople();
  const nameOf = (id: string) => people.data?.people.find((person) => person.id === id)?.name;
  const families = useFamilies();
  const offered = families.data?.families.filter((family) => family.root.type === type) ?? [];
  const [wanted, setKept] = useState<string | null>(null);
  const kept = offered.some(({ id }) => id === wanted) ? wanted : null;
  const [day, setDay] = useState<string | null>(null);
  const up = upwardLink(definition);
  const hanging = useRecord(type ?? '', root ?? '', up !== null && type !== null && root !== null);
  // What lies beside a record, or above it, is in the family of what it hangs under.
  const above = up && type ? aboveOf(model, type, up, hanging.data) : null;
  const { ruleWorker, problem } = useRuleWorker(
    up ? (above?.type ?? null) : type,
    up ? (above?.id ?? null) : root,
    kept,
    foundAmong(model, definition),
  );
  const [staged, setStaged] = useState<Readonly<Record<string, WireValue>> | null>(null);
  const sample = up && type && root ? { type, id: root } : null;
  const settled = ruleWorker?.setup.settledDay ?? null;
  const worked = useQuery({
    queryKey: ['worked', ruleWorker?.key, ruleId, definition, day, staged, sample],
    queryFn: () =>
      certain(ruleWorker).run<Worked>(async (remote) =>
        remote.explain(
          { id: ruleId ?? 'new', version: 'draft', name, definition: certain(definition) },
          day,
          {
            staged,
            sample,
          },
        ),
      ),
    enabled: ruleWorker !== null && definition !== null,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  const explanation = worked.data?.kind === 'worked' ? worked.data.explanation : null;
  useEffect(() => onExplained?.(explanation), [explanation, onExplained]);
  const typeName = type ? typeIn(model, type).name : null;
  return (
    <section className={clsx('sheet', style.worked)} aria-label="Worked example">
      <div className="sheet-head">
        <h2>Worked example</h2>
        {type && offered.length > 0 ? (
          <Select
            aria-label="Where the sample is from"
            className={style.workedKept}
            value={kept ?? ''}
            options={[
              { value: '', label: 'from the data' },
              ...offered.map(({ id, name: label }) => ({ value: id, label })),
            ]}
            showSearch={{ optionFilterProp: 'label' }}
            onChange={(id: string) => setKept(id || null)}
          />
        ) : null}
        {type && kept === null ? (
          <span className={style.workedFamily}>
            <ValueInput
              key={type}
              type={{ kind: 'link', target: type }}
              value={root}
              onChange={(id) => {
                setStaged(null);
                setChosen(id ? { type, id: id as string } : null);
              }}
              label={`Sample ${typeName}`}
            />
          </span>
        ) : null}
      </div>
      {settled && definition && isDated(model, definition) ? (
        <ExampleDay {...{ day, settled, onChange: setDay }} />
      ) : null}
      <ProblemNotice error={problem ?? worked.error ?? families.error} />
      <WorkedBody
        type={typeName}
        isEmpty={kept === null && isEmpty}
        definition={definition}
        isLoading={!problem && (worked.isPending || !ruleWorker) && !(up && hanging.data && !above)}
      >
        {explanation ? <WorkedResult explanation={explanation} /> : null}
        {worked.data?.kind === 'cascade' && definition ? (
          <CascadeExample
            {...{ model, definition, staged, nameOf }}
            view={worked.data.cascade}
            onStage={setStaged}
          />
        ) : null}
        {worked.data?.kind === 'create' ? <CreateExample view={worked.data.create} /> : null}
        {up && root && hanging.data && !above ? (
          <p className="nothing">This record hangs under nothing there. Choose another sample.</p>
        ) : null}
        {worked.data?.kind === 'unsound' ? (
          <ProblemNotice error={new Error(worked.data.messages.join(' '))} />
        ) : null}
      </WorkedBody>
    </section>
  );
}

interface DayProps {
  /** `null`: the settled one. */
  readonly day: string | null;
  readonly settled: string;
  readonly onChange: (day: string | null) => void;
}

/** By which day the example is worked out. */
function ExampleDay({ day, settled, onChange }: DayProps) {
  return (
    <div className={style.workedDay}>
      <label>
        Worked out as of <DayChoice label="Day of the example" day={day ?? settled} onChange={onChange} />
      </label>
      {day !== null && day !== settled ? (
        <span className="now">not the settled day, {displayValue({ kind: 'date' }, settled)}</span>
      ) : null}
    </div>
  );
}

/** The first link up of a cascade that goes beside or above; `null` for any other rule. */
const upwardLink = (definition: RuleDefinition | null): string | null => {
  const first = definition?.kind === 'cascade' ? definition.route[0] : undefined;
  return first?.direction === 'up' ? first.link : null;
};

/** The type among whose records a link rule finds one, by what is the same or up to the top; `null` for any other rule. */
const foundAmong = (model: Model, definition: RuleDefinition | null): string | null =>
  definition?.kind === 'link' && (definition.find.kind === 'match' || definition.find.topmost !== null)
    ? (follow(model, definition.type, [definition.target]) ?? null)
    : null;

function aboveOf(
  model: Model,
  type: string,
  link: string,
  found: RecordView | undefined,
): { readonly type: string; readonly id: string } | null {
  const id = found?.record.values[link];
  const parent = follow(model, type, [link]);
  return typeof id === 'string' && parent ? { type: parent, id } : null;
}

/** Whether what a rule gives may depend on the day. */
function isDated(model: Model, definition: RuleDefinition): boolean {
  const on = (day: string) => {
    const compiled = compileRule(readModel(model, day), { id: '', version: '', name: '', definition });
    return compiled.ok ? semanticKey(compiled.rule) : '';
  };
  return on('2020-02-29') !== on('2027-07-01');
}

interface BodyProps {
  readonly type: string | null;
  readonly isEmpty: boolean;
  readonly definition: RuleDefinition | null;
  readonly isLoading: boolean;
  readonly children: React.ReactNode;
}

function WorkedBody({ type, isEmpty, definition, isLoading, children }: BodyProps) {
  if (!type)
    return <Nothing title="Nothing to work out yet">Choose the type of record that the rule is on.</Nothing>;
  if (isEmpty)
    return (
      <Nothing title={`There is no ${type} yet`}>Add one in Records, and it is worked out here.</Nothing>
    );
  if (!definition)
    return (
      <Nothing title="The sentence isn’t complete">
        Fill its open parts; then the records that count stand here, with the result.
      </Nothing>
    );
  if (isLoading) return <Loading what="the sample family" />;
  return children;
}

function Nothing({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <div className="nothing">
      <strong>{title}</strong>
      {children}
    </div>
  );
}

/** What a rule gives on a record, with what it is made of. */
export function WorkedResult({ explanation }: { explanation: Explanation }) {
  const { result, stored, field, counted, total, map, together } = explanation;
  const isSame =
    result !== null && result.value.text === stored.value.text && result.problem === stored.problem;
  return (
    <>
      <div className={previewStyle.workedResult} role="status">
        <div>
          <div className="quiet">
            {field.name} by this rule{map?.isReacting ? ', if it acts' : ''}
          </div>
          <div className={kitStyle.workedNumber} data-testid="worked-result">
            {result === null ? 'outside this family' : (result.problem ?? result.value.text)}
          </div>
        </div>
        <div>
          <div className="quiet">Stored now</div>
          <div className={isSame ? style.workedStored : clsx('was', style.workedStored)}>
            {stored.problem ?? stored.value.text}
          </div>
        </div>
        <div className={previewStyle.workedVerdict}>
          {isSame ? (
            'No change here'
          ) : (
            <span className="now">{map?.isReacting ? 'Changes when it acts' : 'Would change'}</span>
          )}
          <div className="quiet">
            {explanation.formula ? (
              explanation.formula.applies === false ? (
                'It doesn’t apply here'
              ) : null
            ) : (
              <>
                {writeCount(counted)} of {writeCount(total)} {recordsWords(explanation)} count
              </>
            )}
          </div>
        </div>
      </div>
      {together.length > 0 ? (
        <p className={style.workedTogether}>
          {together.map(({ name, text }) => (
            <span key={name}>
              <span className="quiet">{name}:</span> {text}
            </span>
          ))}
        </p>
      ) : null}
      {map ? <MapTable explanation={explanation} map={map} /> : null}
      {explanation.formula ? (
        <PiecesTable formula={explanation.formula} />
      ) : (
        <ExplanationTable explanation={explanation} />
      )}
      {explanation.tree && explanation.tree.rows.length > 1 ? (
        <TreeTable explanation={explanation} tree={explanation.tree} />
      ) : null}
    </>
  );
}
