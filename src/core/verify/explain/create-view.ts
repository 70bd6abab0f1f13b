import { type Missing, Overlay, propagate, readerOf, type Row, runInMemory, titleOf } from '@/core/engine';
import {
  evaluatorOf,
  Failure,
  OUTSIDE,
  type Reason,
  reasonsAgainst,
  type RunContext,
} from '@/core/expression';
import { typeIn } from '@/core/model';
import type { Plan } from '@/core/plan';
import { type CompiledCreate, sentenceOf, type ExecutionMode, executionModeOf } from '@/core/rules';
import { numberedIds } from '@/core/verify/family/numbered-ids';
import { namesIn, rippleView, type RippleView, type ValueView, valueView, type ViewContext } from './views';

/** What a create rule does for one record, as if it had just come to meet the condition. */
export interface CreateView {
  readonly rule: { readonly id: string; readonly name: string; readonly sentence: string };
  readonly record: { readonly type: string; readonly id: string; readonly title: string };
  /** Whether it meets the condition; `null` where that depends on what isn't loaded. */
  readonly meets: boolean | null;
  /** The tests that it fails. */
  readonly reasons: readonly Reason[];
  /** How one is made for it. */
  readonly way: ExecutionMode;
  /** What the rule made for it already, by title; those in the bin too. */
  readonly made: readonly string[];
  /** What would be made, field by field; empty where nothing would. */
  readonly fields: readonly {
    readonly field: string;
    readonly fieldName: string;
    /** `assigned` by the rule, the link back (`link`), its `default`, or its next `number`. */
    readonly from: 'assigned' | 'link' | 'default' | 'number';
    readonly value: ValueView;
    /** Why a person must fill it in. */
    readonly missing: Missing['reason'] | null;
  }[];
  readonly typeName: string;
  /** What would follow, with all live rules. */
  readonly ripple: RippleView | null;
  /** Why the run would be refused. */
  readonly refusal: string | null;
}

const MADE = '00000000-0000-7000-8000-0000000000fe';

/** Works a create rule out on one record as it stands; saves nothing. `context.plan` has the live rules with it. */
export function createView(
  context: ViewContext & { readonly facts?: RunContext },
  rule: CompiledCreate,
  root: Row,
): CreateView {
  const { model, store } = context;
  const reader = readerOf(model, store);
  const verdict = rule.where ? evaluatorOf(rule.where)(root, reader.given, reader.beneath) : true;
  const nameOf = namesIn(context);
  const way = executionModeOf(rule.making, root.values);
  const view = {
    rule: { id: rule.id, name: rule.name, sentence: sentenceOf(model, rule, nameOf) },
    record: { type: root.type, id: root.id, title: titleOf(model, root) },
    ...{ way, typeName: typeIn(model, rule.makes).name },
    meets: verdict === OUTSIDE || verdict instanceof Failure ? null : (verdict as boolean),
    reasons:
      verdict === false && rule.where
        ? reasonsAgainst(model, rule.where, (field) => reader.given(root, field), nameOf)
        : [],
    made: store.notes.made(rule.id, 'source', [root.id]).map(({ made }) => {
      const row = store.row(rule.makes, made);
      return row ? titleOf(model, row) : made;
    }),
  };
  const after = new Overlay(model, store);
  // Each time, so that one is shown although it was made already; nothing else it may do is.
  const trial: CompiledCreate = {
    ...rule,
    ...{ definition: { ...rule.definition, each: 'everyTime' } },
  };
  const plan: Plan = {
    ...context.plan,
    turns: context.plan.turns.map((one) => (one.id === rule.id ? trial : one)),
  };
  const outcome = runInMemory(
    model,
    after,
    propagate({
      ...{ model, plan, edits: [], isAlone: true, isEveryPace: true },
      ...{ asked: new Map([[rule.id, [root.id]]]), newId: numberedIds(MADE) },
      ...(context.facts ? { facts: context.facts } : {}),
    }),
  );
  if (outcome.kind === 'refused')
    return { ...view, fields: [], ripple: null, refusal: outcome.problems[0]?.message ?? '' };
  const { ripple } = outcome;
  const made = after.row(rule.makes, MADE);
  const proposal = ripple.proposals.find(({ kind, rule: id }) => kind === 'make' && id === rule.id);
  const values = made?.values ?? proposal?.values;
  const missing = new Map((proposal?.missing ?? []).map(({ field, reason }) => [field, reason]));
  const titles = namesIn({ ...context, store: after });
  const assigned = new Set(rule.assigned.map(({ target }) => target.key));
  return {
    ...view,
    fields: values
      ? typeIn(model, rule.makes).fields.flatMap((field) => {
          const value = values[field.key] ?? null;
          if (value === null && !missing.has(field.key) && !assigned.has(field.key)) return [];
          const from = assigned.has(field.key)
            ? 'assigned'
            : field.key === rule.definition.back
              ? 'link'
              : field.type.kind === 'serial'
                ? 'number'
                : 'default';
          return [
            {
              ...{
                field: field.key,
                fieldName: field.name,
                from: from as CreateView['fields'][number]['from'],
              },
              value: valueView(field.type, value, titles),
              missing: missing.get(field.key) ?? null,
            },
          ];
        })
      : [],
    ripple: rippleView(
      { ...context, plan, store: after },
      // What is made is told above.
      {
        ...ripple,
        events: ripple.events.filter(({ id }) => id !== MADE),
        // What the record takes from one that it has already would be the first one's, not this one's.
        changes: ripple.changes.filter(
          ({ id, rule: by }) => by !== rule.id || (id !== MADE && (id !== root.id || !view.made.length)),
        ),
      },
    ),
    refusal: null,
  };
}
