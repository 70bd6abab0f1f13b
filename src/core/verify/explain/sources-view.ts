import { readerOf, type Row, titleOf } from '@/core/engine';
import { countingFor, evaluatorOf, Failure, inOrder, OUTSIDE } from '@/core/expression';
import { typeIn } from '@/core/model';
import type { KeptCascade } from '@/core/rules';
import { certain } from '@/core/values';
import { namesIn, problemWords, valueView, type ValueView, type ViewContext } from './views';

/** A record that may cascade to another, and what it has to give. */
export interface SourceOfSeveral {
  readonly type: string;
  readonly id: string;
  readonly title: string;
  /** `leads`: it comes first · `behind`: another does · `givesNothing`: by the rule it has nothing to give. */
  readonly standing: 'leads' | 'behind' | 'givesNothing';
  /** `null` where that lies outside what is known. */
  readonly value: ValueView | null;
  readonly problem: string | null;
}

/** All that may cascade to a record, kept in step, in the rule's order. */
export interface SeveralView {
  /** `Exhibitions`. */
  readonly plural: string;
  readonly sources: readonly SourceOfSeveral[];
  /** So many more aren't listed. */
  readonly more: number;
}

const MOST_LISTED = 100;

/** `null` where they lie outside what is known. */
export function severalView(context: ViewContext, rule: KeptCascade, row: Row): SeveralView | null {
  const { model, store } = context;
  const { leads } = certain(rule.several);
  const { type } = rule.definition;
  const leading = certain(leads.leading);
  const { given, beneath } = readerOf(model, store);
  const members = beneath(row, leads);
  if (members === OUTSIDE) return null;
  const idOf = (member: Row) => String(given(member, leading.id));
  const counting = [...countingFor(leading, row, members, given)];
  const gives = (member: Row) =>
    leads.condition === null || evaluatorOf(leads.condition)(member, given, beneath) === true;
  const ordered = inOrder(counting.filter(gives), leading.order, { given, idOf });
  const all = [...ordered, ...counting.filter((member) => !ordered.includes(member))];
  const seen = new Set<string>();
  const sources = all.flatMap((member): SourceOfSeveral[] => {
    const id = idOf(member);
    const source = store.row(type, id);
    if (!source || seen.has(id)) return [];
    seen.add(id);
    const isGiving = ordered.includes(member);
    const worked = isGiving && leads.value ? evaluatorOf(leads.value)(member, given, beneath) : null;
    const isKnown = worked !== OUTSIDE && !(worked instanceof Failure);
    return [
      {
        ...{ type, id, title: titleOf(model, source) },
        standing: !isGiving ? 'givesNothing' : member === ordered[0] ? 'leads' : 'behind',
        value: isKnown ? valueView(leads.type, worked, namesIn(context)) : null,
        problem: worked instanceof Failure ? problemWords(worked.code) : null,
      },
    ];
  });
  return {
    plural: typeIn(model, type).plural,
    sources: sources.slice(0, MOST_LISTED),
    more: Math.max(0, sources.length - MOST_LISTED),
  };
}
