'use client';

import { type Link, type Model } from '@/core/model';
import { reacts, type Rule, targetsOf } from '@/core/rules';
import { type WireValue } from '@/core/values';
import type { FamilyData, WireRecord } from '@/core/verify';
import { createContext, useContext } from 'react';
import type { ColumnsOf } from './columns';
import type { InSight } from './in-sight';
import type { Standing } from './as-staged';

/** What every part of the tree needs to know. */
export interface TreeScope {
  readonly model: Model;
  /** The rules that take part, drafts among them. */
  readonly rules: readonly Rule[];
  readonly family: FamilyData;
  readonly stored: ReadonlyMap<string, WireRecord>;
  /** The records as they would stand. */
  readonly now: Standing;
  readonly columns: ColumnsOf;
  /** The records that are shown, where not all are. */
  readonly inSight: InSight;
  /** By type and field: the rule that keeps it. What is kept in step is told by the run; elsewhere it is open. */
  readonly keepers: ReadonlyMap<string, Rule>;
  /** What is asked of the tree as it stands when something is done: so that a cell needn't be drawn again for it. */
  readonly latest: Latest;
  /** Rows that were opened or closed, by their link and record: a row that is out of sight isn't drawn, and opens as it was. */
  readonly opened: Map<string, boolean>;
  /** Cells to point at: `type id field`. */
  readonly marked: ReadonlySet<string>;
  readonly problems: ReadonlyMap<string, string>;
  readonly nameOf: (id: string) => string | undefined;
  readonly onEdit: (record: WireRecord, field: string, value: WireValue) => void;
  /** Reads the rule that keeps a value, on its record. */
  readonly onRead: (rule: string, record: string) => void;
  readonly onDelete: (record: WireRecord) => void;
  /** A new record under a parent, and one that is moved to another parent. */
  readonly onAdd: (link: Link, parent: WireRecord) => void;
  readonly onMove: (record: WireRecord, link: string, parent: string) => void;
}

/** The same, as it is handed to the tree. */
export type FamilyScope = Omit<TreeScope, 'opened' | 'keepers' | 'latest'>;

export const Scope = createContext<TreeScope | null>(null);

export function useScope(): TreeScope {
  const scope = useContext(Scope);
  if (!scope) throw new Error('A part of the tree stands outside it');
  return scope;
}

/** The last that was handed to the tree. */
export class Latest {
  #scope: FamilyScope;
  constructor(scope: FamilyScope) {
    this.#scope = scope;
  }

  get current(): FamilyScope {
    return this.#scope;
  }

  put(scope: FamilyScope): void {
    this.#scope = scope;
  }
}

/** The rules that keep fields for themselves, by type and field. */
export function keepersOf(model: Model, rules: readonly Rule[]): ReadonlyMap<string, Rule> {
  const keepers = new Map<string, Rule>();
  for (const rule of rules)
    if (rule.definition.kind !== 'cascade' && !reacts(rule.definition))
      for (const { type, field } of targetsOf(model, rule.definition))
        if (!keepers.has(`${type} ${field}`)) keepers.set(`${type} ${field}`, rule);
  return keepers;
}
