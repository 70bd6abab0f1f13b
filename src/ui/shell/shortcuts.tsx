'use client';

import { useEffect, useState } from 'react';
import { Dialog } from '@/ui/kit/dialog';
import style from './shell.module.css';

const KEYS: readonly (readonly [keys: readonly string[], does: string])[] = [
  [['Ctrl K'], 'find a record, a rule or a page, or begin something'],
  [['Ctrl S'], 'save the record, the rule or the request'],
  [['F1'], 'help for the place that is open, beside it'],
  [['?'], 'show these keys'],
  [['Tab', 'Enter'], 'go to a part of a sentence, and open it'],
  [['↑', '↓'], 'in a menu: another choice; in a day: a day later or earlier'],
  [['Alt ↓'], 'in a day: the calendar'],
  [['Enter'], 'in a value on the bench or in a list: take it'],
  [['Esc'], 'close what is open, and leave a value as it was'],
];

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

/** The sheet of keys, opened by `?` from anywhere but where one types. */
export function Shortcuts() {
  const [isOpen, setOpen] = useState(false);
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.key === '?' && !event.ctrlKey && !event.metaKey && !isTyping(event.target)) setOpen(true);
    };
    addEventListener('keydown', listen);
    return () => removeEventListener('keydown', listen);
  }, []);
  if (!isOpen) return null;
  return (
    <Dialog open title="Keys" footer={null} onCancel={() => setOpen(false)}>
      <dl className={style.keys}>
        {KEYS.map(([keys, does]) => (
          <div key={does}>
            <dt>
              {keys.map((key) => (
                <kbd key={key}>{key}</kbd>
              ))}
            </dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
    </Dialog>
  );
}
