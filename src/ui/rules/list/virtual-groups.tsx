'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, type ReactNode } from 'react';
import { grouped } from '@/core/grouped';
import { firstIn, writeCount } from '@/core/values';
import type { RuleView } from '@/core/api';
import { scrollerOf, useAbove } from '@/ui/kit/hooks/use-above';
import type { RuleGroup } from './rule-list-model';
import { clsx } from 'clsx';
import style from './virtual-groups.module.css';

interface Row {
  readonly group: RuleGroup;
  /** `null`: the head of the group. */
  readonly rule: RuleView | null;
  readonly position: number;
}

/** Rows that are drawn beyond those in sight: short lists stand there whole. */
const BEYOND = 40;

export interface VirtualGroupsProps {
  readonly groups: readonly RuleGroup[];
  /** What a group is called, with its label. */
  readonly headOf: (group: RuleGroup) => string;
  readonly folded: ReadonlySet<string>;
  readonly onFold: (group: string) => void;
  /** About how high a row is, in pixels; each is measured when it is drawn. */
  readonly rowHeight: number;
  readonly rowOf: (rule: RuleView) => ReactNode;
}

/** Groups of rules, of which only those about in sight are drawn. Scrolled is the place that they stand in. */
export function VirtualGroups({ groups, headOf, folded, onFold, rowHeight, rowOf }: VirtualGroupsProps) {
  const list = useRef<HTMLDivElement>(null);
  const above = useAbove(list, groups);
  const rows = groups.flatMap((group): Row[] => [
    { group, rule: null, position: 0 },
    ...(folded.has(group.key)
      ? []
      : group.rules.map((rule, index) => ({ group, rule, position: index + 1 }))),
  ]);
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing that it answers is handed on to what is remembered
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scrollerOf(list.current),
    estimateSize: (index) => (rows[index]?.rule ? rowHeight : 62),
    getItemKey: (index) => {
      const row = rows[index];
      return row ? `${row.group.key} ${row.rule?.id ?? ''}` : index;
    },
    overscan: BEYOND,
    scrollMargin: above,
  });
  const drawn = virtual.getVirtualItems().flatMap(({ index, start }) => {
    const row = rows[index];
    return row ? [{ ...row, index, start }] : [];
  });
  const sections = grouped(drawn, ({ group }) => group.key);
  return (
    <div ref={list} className={style.list} style={{ height: virtual.getTotalSize() }}>
      {[...sections.values()].map((inSight) => {
        const { group, start } = firstIn(inSight);
        const isOpen = !folded.has(group.key);
        const isLastDrawn = inSight.at(-1)?.position === group.rules.length;
        return (
          <section
            key={group.key}
            className={style.group}
            style={{ transform: `translateY(${start - above}px)` }}
            aria-label={headOf(group)}
          >
            {inSight.map(({ rule, index }) =>
              rule ? null : (
                <div key="head" ref={virtual.measureElement} data-index={index} className={style.gap}>
                  <h2 className={clsx(style.head, !isOpen && style.closed)}>
                    <button type="button" aria-expanded={isOpen} onClick={() => onFold(group.key)}>
                      <span className={style.fold} aria-hidden>
                        {isOpen ? '▾' : '▸'}
                      </span>
                      {headOf(group)}
                      <span className="quiet">{writeCount(group.rules.length)}</span>
                    </button>
                  </h2>
                </div>
              ),
            )}
            <ul className={clsx(style.rules, isLastDrawn && style.ended)}>
              {inSight.map(({ rule, index, position }) =>
                rule ? (
                  <li
                    key={rule.id}
                    ref={virtual.measureElement}
                    data-index={index}
                    aria-setsize={group.rules.length}
                    aria-posinset={position}
                  >
                    {rowOf(rule)}
                  </li>
                ) : null,
              )}
            </ul>
          </section>
        );
      })}
    </div>
  );
}
