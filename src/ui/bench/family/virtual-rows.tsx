'use client';

import { defaultRangeExtractor, useVirtualizer } from '@tanstack/react-virtual';
import { Fragment, type ReactNode, useCallback, useRef, useState } from 'react';
import type { WireRecord } from '@/core/verify';
import { scrollerOf, useAbove } from '@/ui/kit/hooks/use-above';
import familyStyle from './family.module.css';

/** About as high as a closed row is, in pixels; each is measured when it is drawn. */
const ROW = 33;
/** Rows that are drawn beyond those in sight. */
const BEYOND = 6;

interface VirtualRowsProps {
  readonly records: readonly WireRecord[];
  readonly rowOf: (record: WireRecord) => ReactNode;
}

/** Bodies of a table, one for each record with all that hangs under it, of which only those about in sight are drawn, and the one that has the focus. */
export function VirtualRows({ records, rowOf }: VirtualRowsProps) {
  const start = useRef<HTMLTableSectionElement>(null);
  const above = useAbove(start);
  const [focused, setFocused] = useState<string | null>(null);
  const keyOf = useKeys(records);
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing that it answers is handed on to what is remembered
  const virtual = useVirtualizer({
    count: records.length,
    getScrollElement: () => scrollerOf(start.current),
    estimateSize: () => ROW,
    overscan: BEYOND,
    scrollMargin: above,
    getItemKey: keyOf,
    rangeExtractor: (range) => {
      const drawn = defaultRangeExtractor(range);
      const at = focused === null ? -1 : records.findIndex(({ id }) => id === focused);
      return at < 0 || drawn.includes(at) ? drawn : [...drawn, at].sort((a, b) => a - b);
    },
  });
  const items = virtual.getVirtualItems();
  return (
    <>
      <tbody ref={start} aria-hidden />
      {items.map((item, at) => {
        const record = records[item.index];
        const gap = item.start - (items[at - 1]?.end ?? above);
        return record ? (
          <Fragment key={record.id}>
            <Gap height={gap} />
            <tbody ref={virtual.measureElement} data-index={item.index} onFocus={() => setFocused(record.id)}>
              {rowOf(record)}
            </tbody>
          </Fragment>
        ) : null;
      })}
      <Gap height={virtual.getTotalSize() + above - (items.at(-1)?.end ?? above)} />
    </>
  );
}

/** The key of each place. All places are measured anew for another such function: it stays while the same records stand in the same order. */
function useKeys(records: readonly WireRecord[]): (index: number) => string | number {
  const [known, setKnown] = useState(records);
  const isSame =
    known === records ||
    (known.length === records.length && records.every(({ id }, at) => known[at]?.id === id));
  if (!isSame) setKnown(records);
  const keyed = isSame ? known : records;
  return useCallback((index) => keyed[index]?.id ?? index, [keyed]);
}

/** As high as the rows that aren't drawn. */
const Gap = ({ height }: { height: number }) =>
  height > 0.5 ? (
    <tbody aria-hidden>
      <tr className={familyStyle.gap}>
        <td style={{ height }} />
      </tr>
    </tbody>
  ) : null;
