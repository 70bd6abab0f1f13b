import type { CellRef } from '@/core/engine';
import type { Model } from '@/core/model';
import { type CellView, type ChangeView, type WriterView } from '@/core/verify';
import type { LedgerSource } from '@/server/store/write/ledger-entries';
import {
  fieldName,
  type LedgerWords,
  loggedDifference,
  loggedValue,
  pluralOf,
  ruleOf,
  typeName,
} from './ledger-words';

/** What a run did to a record, as the ledger has it. */
export interface Logged {
  type: string;
  record: string;
  event: 'changed' | 'deleted' | 'restored';
  changes: Record<string, [unknown, unknown]>;
  sources: Record<string, LedgerSource>;
}

interface Ref {
  readonly type: string;
  readonly record: string;
}

/** A record that a run made; where a rule did, with that and what it made it for. */
export interface MadeRef extends Ref {
  readonly source: LedgerSource | null;
}

const cellOf = (model: Model, { type, id, field }: CellRef, { titles }: LedgerWords): CellView => ({
  ...{ type, id, field, title: titles[id] ?? id },
  fieldName: field === '' ? '' : fieldName(model, type, field),
});

export type Waved = ChangeView & { readonly wave: number };

function eventView(
  model: Model,
  { type, record: id }: Ref,
  kind: ChangeView['kind'],
  words: LedgerWords,
  source?: LedgerSource,
): Waved {
  return {
    ...cellOf(model, { type, id, field: '' }, words),
    ...{ kind, typeName: typeName(model, type), plural: pluralOf(model, type), wave: source?.wave ?? 0 },
    ...{ before: null, after: null, difference: null, problem: null, rule: writerOf(source, words) },
    causes: source?.causes.map((cause) => cellOf(model, cause, words)) ?? [],
  };
}

export const madeView = (model: Model, { source, ...ref }: MadeRef, words: LedgerWords): Waved =>
  eventView(model, ref, 'created', words, source ?? undefined);

/** The pace that a rule had then isn't kept with the run. */
function writerOf(...of: Parameters<typeof ruleOf>): WriterView | null {
  const rule = ruleOf(...of);
  return rule && { ...rule, pace: null };
}

/** What the ledger has of a record, field by field. */
export function viewsOf(
  model: Model,
  { type, record: id, event, changes, sources }: Logged,
  words: LedgerWords,
): Waved[] {
  const view = (field: string, wire: unknown) => loggedValue(model, { type, field }, wire, words);
  const events =
    event === 'changed' ? [] : [eventView(model, { type, record: id }, event, words, sources[''])];
  return [
    ...events,
    ...Object.entries(changes).map(([key, [before, after]]): Waved => {
      const source = sources[key];
      return {
        ...cellOf(model, { type, id, field: key }, words),
        ...{ kind: 'field', typeName: typeName(model, type), wave: source?.wave ?? 0, problem: null },
        ...{ before: view(key, before), after: view(key, after) },
        plural: pluralOf(model, type),
        difference: loggedDifference(model, { type, field: key }, before, after),
        rule: writerOf(source, words),
        causes: source?.causes.map((cause) => cellOf(model, cause, words)) ?? [],
      };
    }),
  ];
}
