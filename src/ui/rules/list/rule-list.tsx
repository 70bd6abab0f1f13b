'use client';

import type { ModelView, RuleView } from '@/core/api';
import { Button, Progress } from 'antd';
import { useMemo, useState } from 'react';
import { modelOf, usePeople, useProofStandings, useRequests } from '@/ui/api/queries';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useAddressFilters } from '@/ui/kit/hooks/use-address-filters';
import { isTexts, useKept } from '@/ui/kit/hooks/use-kept';
import { type FiguresState, useFigures } from '@/ui/workers/use-strength';
import { ListTools } from './list-tools';
import { MarkedBar } from './marked-bar';
import {
  filteredRules,
  groupedRules,
  type Grouping,
  GROUPINGS,
  IN_ADDRESS,
  type RuleGroup,
} from './rule-list-model';
import { RuleRow } from './rule-row';
import { VirtualGroups } from './virtual-groups';
import style from './rule-list.module.css';

const isGrouping = (value: unknown): value is Grouping => GROUPINGS.some((one) => one === value);
const isWholeOne = (value: unknown): value is boolean => typeof value === 'boolean';
const NOTHING: readonly string[] = [];

/** Rules that aren't retired: narrowed, put together, marked and done something with. */
export function RuleList({ rules, model: view }: { rules: readonly RuleView[]; model: ModelView }) {
  const model = useMemo(() => modelOf(view), [view]);
  const people = usePeople();
  const requests = useRequests();
  const proofs = useProofStandings();
  const figures = useFigures(rules, proofs.data?.rules ?? []);
  const [filters, setFilters] = useAddressFilters(IN_ADDRESS);
  const [by, setBy] = useKept<Grouping>('oikon.rules.by', 'type', isGrouping);
  const [isWhole, setWhole] = useKept('oikon.rules.whole', true, isWholeOne);
  const [folds, setFolds] = useKept<readonly string[]>(`oikon.rules.folded.${by}`, NOTHING, isTexts);
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
  const beside = {
    ...{ model: view, requests: requests.data?.requests ?? [], proofs: proofs.data?.rules ?? null },
  };
  const shown = filteredRules(rules, filters, beside);
  const folded = new Set(folds);
  const nameOf = (id: string) => people.data?.people.find((person) => person.id === id)?.name;
  const mark = (id: string, isMarked: boolean) =>
    setMarked((all) => new Set(isMarked ? [...all, id] : [...all].filter((one) => one !== id)));
  const chosen = rules.filter(({ id }) => marked.has(id));
  return (
    <>
      <ListTools
        {...{ rules, beside, shown, filters, by, isWhole, marked }}
        onFilters={setFilters}
        onBy={setBy}
        onWhole={setWhole}
        onMark={setMarked}
      >
        <HowStrong state={figures} />
      </ListTools>
      {chosen.length > 0 ? (
        <MarkedBar {...{ rules, model }} marked={chosen} onClear={() => setMarked(new Set())} />
      ) : null}
      {shown.length === 0 ? (
        <div className="sheet nothing">
          <strong>No rule fits</strong>
          <Button onClick={() => setFilters({})}>Show all {rules.length}</Button>
        </div>
      ) : (
        <VirtualGroups
          groups={groupedRules(shown, by, beside)}
          headOf={(group) => headOf(by, group)}
          folded={folded}
          onFold={(key) => setFolds(folded.has(key) ? folds.filter((one) => one !== key) : [...folds, key])}
          rowHeight={isWhole ? 98 : 37}
          rowOf={(rule) => (
            <RuleRow
              {...{ rule, model, nameOf, isWhole }}
              isMarked={marked.has(rule.id)}
              onMark={(isMarked) => mark(rule.id, isMarked)}
              proofs={
                proofs.data ? (proofs.data.rules.find((one) => one.rule === rule.id) ?? null) : undefined
              }
              figure={figures.figures.get(rule.id) ?? null}
            />
          )}
        />
      )}
    </>
  );
}

const headOf = (by: Grouping, { label }: RuleGroup): string => (by === 'type' ? `Rules on ${label}` : label);

/** Asks how strong the proofs of all rules are, which takes a while; it can be stopped. */
function HowStrong({ state: { done, of, isAsked, ask, stop, error } }: { state: FiguresState }) {
  if (of === 0) return null;
  return (
    <div className={style.strengths} aria-live="polite">
      <ProblemNotice error={error} />
      {done === of ? (
        <span className="quiet">
          Beside each rule stands how many ways to change it a little its proofs notice.
        </span>
      ) : isAsked ? (
        <>
          <Progress
            percent={Math.round((100 * done) / of)}
            size="small"
            aria-label="How many rules have been looked at"
          />
          <Button size="small" onClick={stop}>
            Stop
          </Button>
        </>
      ) : (
        <Button size="small" onClick={ask}>
          How strong are the proofs?
        </Button>
      )}
    </div>
  );
}
