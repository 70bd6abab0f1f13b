'use client';

import { itemAt } from '@/core/values';
import { ArrowDownOutlined, ArrowUpOutlined } from '@ant-design/icons';
import { Button } from 'antd';

/** Moves one of several things up or down by one. */
export function MoveButtons<T>({
  items,
  index,
  name,
  onChange,
}: {
  readonly items: readonly T[];
  readonly index: number;
  readonly name: string;
  readonly onChange: (items: readonly T[]) => void;
}) {
  const swap = (other: number) => items.with(index, itemAt(items, other)).with(other, itemAt(items, index));
  return (
    <>
      <Button
        size="small"
        type="text"
        icon={<ArrowUpOutlined />}
        aria-label={`Move ${name} up`}
        disabled={index === 0}
        onClick={() => onChange(swap(index - 1))}
      />
      <Button
        size="small"
        type="text"
        icon={<ArrowDownOutlined />}
        aria-label={`Move ${name} down`}
        disabled={index === items.length - 1}
        onClick={() => onChange(swap(index + 1))}
      />
    </>
  );
}
