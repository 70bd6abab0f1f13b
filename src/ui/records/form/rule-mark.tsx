'use client';

import type { KeeperView } from '@/core/api';
import { Popover } from 'antd';
import { type ReactNode, useRef, useState } from 'react';
import { Link } from '@/ui/kit/navigation';
import { KindGlyph } from '@/ui/theme/glyphs';
import { clsx } from 'clsx';
import style from './rule-mark.module.css';

interface RuleMarkProps {
  readonly field: string;
  readonly rule: KeeperView['rule'];
  /** What the rule does to the field, read after its name: “keeps this in step”. */
  readonly does: string;
  readonly children?: ReactNode;
}

/** The glyph of a rule beside a field's name. Which it is, and what it does, opens over it: on hover, on focus, and by a press, which goes into it. */
export function RuleMark({ field, rule, does, children }: RuleMarkProps) {
  const [isOpen, setOpen] = useState(false);
  /** By a press: then it stays, whatever the pointer does, until one leaves it. */
  const [isEntered, setEntered] = useState(false);
  const close = () => {
    setEntered(false);
    setOpen(false);
  };
  const mark = useRef<HTMLButtonElement>(null);
  const shown = useRef<HTMLSpanElement>(null);
  const goIn = () => {
    setEntered(true);
    requestAnimationFrame(() => shown.current?.querySelector('a')?.focus());
  };
  return (
    <Popover
      open={isOpen || isEntered}
      onOpenChange={setOpen}
      trigger={['hover', 'focus']}
      placement="topLeft"
      content={
        <span
          ref={shown}
          className={style.shown}
          onKeyDown={({ key }) => {
            if (key !== 'Escape') return;
            mark.current?.focus();
            close();
          }}
          onBlur={({ currentTarget, relatedTarget }) => {
            if (!currentTarget.contains(relatedTarget) && relatedTarget !== mark.current) close();
          }}
        >
          “<Link href={`/rules/${rule.id}`}>{rule.name}</Link>” {does} {children}
        </span>
      }
    >
      <button
        ref={mark}
        type="button"
        className={clsx('plain', style.mark)}
        aria-label={`Rule of ${field}: “${rule.name}” ${does}`}
        onClick={goIn}
      >
        <KindGlyph kind={rule.kind} size={14} />
      </button>
    </Popover>
  );
}
