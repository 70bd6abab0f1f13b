import { type Model, typeIn } from '@/core/model';
import type { WireValue } from '@/core/values';
import { type WireRecord, withDrafts } from '@/core/verify';
import { memo, useEffect, useMemo, useState } from 'react';
import { v7 as newId } from 'uuid';
import type { FamilyScope } from '@/ui/bench/family/tree-scope';
import { FamilyTree } from '@/ui/bench/family/family-tree';
import { cellKey } from '@/ui/kit/values/cell-key';
import { asRule, type Rehearsed } from '@/ui/workers/rule-worker';
import type { OpenRuleWorker } from '@/ui/workers/use-rule-worker';
import { standing } from './family/as-staged';
import { changedColumns, columnsOn, withChanged } from './family/columns';
import { changedFields, titled, withAncestors } from './family/in-sight';
import { NarrowFamily, type Narrowed } from './family/narrow-family';
import type { Taking } from './open-tool';
import type { ReadAt } from './read-rule';
import type { Step } from './steps/steps';

interface StagedFamilyProps {
  readonly model: Model;
  readonly ruleWorker: OpenRuleWorker;
  readonly data: Rehearsed;
  readonly marked: ReadonlySet<string>;
  readonly stage: (step: Step) => void;
  readonly onRead: (at: ReadAt) => void;
  readonly taking: Taking;
  readonly nameOf: FamilyScope['nameOf'];
}

/** The family as what is staged leaves it, narrowed to what is in sight. It may be large: it is drawn again only where what is known of it changes. */
export const StagedFamily = memo(function StagedFamily({
  model,
  ruleWorker,
  data,
  marked,
  stage,
  taking,
  nameOf,
  onRead,
}: StagedFamilyProps) {
  const { setup } = ruleWorker;
  const { family, live } = setup;
  const stored = useMemo(() => new Map(family.records.map((record) => [record.id, record])), [family]);
  const now = useMemo(() => standing(model, family, data), [model, family, data]);
  const rules = useMemo(() => withDrafts(live, taking.map(asRule)), [live, taking]);
  const [narrowed, setNarrowed] = useState<Narrowed>({ search: '', isOnlyChanged: false });
  const isOnlyChanged = narrowed.isOnlyChanged && data.changed.length > 0;
  const columns = useMemo(() => {
    const all = columnsOn(model, rules);
    const changed = changedFields(data.changed, stored);
    return (isOnlyChanged ? changedColumns : withChanged)(model, all, changed);
  }, [model, rules, isOnlyChanged, data, stored]);
  useEffect(() => {
    if (marked.size > 0)
      document.querySelector('[data-cell="marked"]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [marked]);
  const inSight = useMemo(() => {
    if (!isOnlyChanged && narrowed.search === '') return null;
    const found = titled(model, now.records, narrowed.search);
    const wanted = isOnlyChanged ? data.changed.map(({ id }) => id).filter((id) => found.has(id)) : found;
    return withAncestors(model, now.records, new Set(wanted));
  }, [model, now, data, isOnlyChanged, narrowed.search]);
  const changes = data.rehearsals.flatMap((rehearsal) =>
    rehearsal.kind === 'done'
      ? [...(rehearsal.filled?.waves ?? []), ...rehearsal.ripple.waves].flatMap((wave) => wave.changes)
      : [],
  );
  const scope: FamilyScope = {
    ...{ model, family, stored, marked, now, rules, columns, inSight, nameOf },
    problems: new Map(
      changes.flatMap((change) =>
        change.problem ? [[cellKey(change.type, change.id, change.field), change.problem] as const] : [],
      ),
    ),
    onEdit: ({ type, id }: WireRecord, field: string, value: WireValue) =>
      stage({ kind: 'edit', type, id, field, value }),
    onRead: (rule, record) => onRead({ rule, record }),
    onDelete: ({ type, id }: WireRecord) => stage({ kind: 'delete', type, id }),
    onMove: ({ type, id }: WireRecord, link: string, parent: string) =>
      stage({ kind: 'edit', type, id, field: link, value: parent }),
    onAdd: ({ type, link }, parent) => {
      const { title, name } = typeIn(model, type);
      const number =
        data.changed.filter((record) => record.type === type && !stored.has(record.id)).length + 1;
      stage({
        kind: 'create',
        type,
        id: newId(),
        values: { [title]: `New ${name.toLowerCase()} ${number}`, [link]: parent.id },
      });
    },
  };
  return (
    <>
      <NarrowFamily {...{ narrowed, inSight }} changed={data.changed.length} onNarrow={setNarrowed} />
      <FamilyTree key={String(inSight !== null)} scope={scope} />
    </>
  );
});
