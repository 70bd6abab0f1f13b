'use client';

import { clsx } from 'clsx';
import { Button, Dropdown, Input, type InputRef, type MenuProps, Popover } from 'antd';
import { type ReactNode, useEffect, useEffectEvent, useRef, useState } from 'react';
import { flushSync } from 'react-dom';
import { type Choice, isLong, narrowed, soleChoice } from './choices';
import expressionStyle from './expression.module.css';
import style from './part.module.css';

interface PartProps {
  /** What the part is, for those who hear it: `Field that is kept`. */
  readonly label: string;
  /** What is chosen, in words; left out while nothing is. */
  readonly text: string | null;
  /** What stands there while nothing is chosen. */
  readonly hint: string;
  readonly isWrong?: boolean;
}

const itemsOf = (choices: readonly Choice[]): NonNullable<MenuProps['items']> =>
  choices.map(({ key, name, note, isDisabled, children }) => ({
    key,
    disabled: isDisabled ?? false,
    label: (
      <>
        {name} {note ? <span className="quiet">· {note}</span> : null}
      </>
    ),
    ...(children ? { children: itemsOf(children), popupClassName: style.partSubmenu } : {}),
  }));

function PartButton({
  label,
  text,
  hint,
  isWrong,
  className,
  ...rest
}: PartProps & React.ComponentProps<'button'>) {
  return (
    <button
      type="button"
      className={clsx('plain part', isWrong ? style.partWrong : text === null && style.partOpen, className)}
      aria-label={`${label}: ${text ?? hint}`}
      {...rest}
    >
      {text ?? hint}
    </button>
  );
}

const MOST_FRAMES = 12;

/** Moves the focus into what opens, as soon as it is shown, so that keys work at once. Something that has it already keeps it. */
function Focused({ wanted, ...rest }: { wanted: string } & Omit<React.ComponentProps<'div'>, 'ref'>) {
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let frame = 0;
    const focus = (left: number) => {
      if (box.current?.contains(document.activeElement)) return;
      const first = box.current?.querySelector<HTMLElement>(wanted);
      first?.focus();
      if (left > 0 && document.activeElement !== first) frame = requestAnimationFrame(() => focus(left - 1));
    };
    focus(MOST_FRAMES);
    return () => cancelAnimationFrame(frame);
  }, [wanted]);
  // What opens it gives it a ref of its own, which nothing needs.
  return <div {...rest} ref={box} />;
}

const FIRST_ITEM = '[role="menuitem"]:not([aria-disabled="true"])';
const FIRST_CONTROL =
  'input:not([disabled]), textarea:not([disabled]), [contenteditable="true"], button:not([disabled]), [tabindex="0"]';

interface MenuPartProps extends PartProps {
  readonly choices: readonly Choice[];
  readonly onChoose: (key: string) => void;
  /** What stands there where there is nothing to choose from. */
  readonly nothing?: string;
  /** Where there is but one thing to choose it is taken, rather than asked for. */
  readonly takesSole?: boolean;
}

/** A part of the sentence that is chosen from a list, which typing narrows. An empty list says why. */
export function MenuPart({ choices, onChoose, nothing, takesSole = false, ...part }: MenuPartProps) {
  const [isOpen, setOpen] = useState(false);
  const [text, setText] = useState('');
  const [button, input] = [useRef<HTMLButtonElement>(null), useRef<InputRef>(null)];
  const sole = takesSole && part.text === null ? soleChoice(choices) : null;
  const take = useEffectEvent(onChoose);
  useEffect(() => {
    if (sole !== null) take(sole);
  }, [sole]);
  const shown = narrowed(choices, text);
  const none = text ? `Nothing here is called “${text}”.` : (nothing ?? 'There is nothing to choose from.');
  const open = (next: boolean) => {
    setOpen(next);
    setText('');
  };
  const choose = (key: string) => {
    open(false);
    const sentence = button.current?.closest('[aria-label="Sentence of the rule"]');
    onChoose(key);
    button.current?.focus();
    // A part that gives way to others hands the focus on to the first that is open.
    requestAnimationFrame(() => {
      if (document.activeElement === document.body)
        sentence?.querySelector<HTMLElement>(`.${style.partOpen}`)?.focus();
    });
  };
  const onKeyDown = (event: React.KeyboardEvent) => {
    const isInput = event.target === input.current?.input;
    const takesFirst = event.key === 'Enter' && (isInput || text !== '');
    // What a choice opens has the focus at once: the same press mustn’t be taken for one there.
    if (takesFirst || (event.key === 'Enter' && event.target !== button.current)) event.preventDefault();
    if (takesFirst) {
      event.stopPropagation();
      const first = shown.find(({ isDisabled }) => !isDisabled);
      if (text && first) choose(first.key);
    } else if (event.key.length === 1 && event.key !== ' ' && !event.ctrlKey && !event.metaKey && !isInput) {
      event.preventDefault();
      // What had the focus may leave the list: the next key must find it in the line already.
      flushSync(() => setText((before) => before + event.key));
      input.current?.focus({ cursor: 'end' });
    }
  };
  return (
    <Dropdown
      trigger={['click']}
      destroyOnHidden
      open={isOpen}
      onOpenChange={(next, { source }) => {
        if (source === 'trigger') open(next);
      }}
      popupRender={(menu) => (
        <Focused wanted={FIRST_ITEM} className={style.partMenu} onKeyDownCapture={onKeyDown}>
          {text !== '' || isLong(choices) ? (
            <Input
              ref={input}
              className={style.partSearch ?? ''}
              aria-label="Narrow the list"
              placeholder="Type to narrow the list"
              value={text}
              onChange={(event) => setText(event.target.value)}
              onKeyDown={(event) => {
                if (event.key !== 'ArrowDown') return;
                event.preventDefault();
                const box = event.currentTarget.closest(`.${style.partMenu}`);
                box?.querySelector<HTMLElement>(FIRST_ITEM)?.focus();
              }}
            />
          ) : null}
          {menu}
        </Focused>
      )}
      menu={{
        items: shown.length > 0 ? itemsOf(shown) : [{ key: '', label: none, disabled: true }],
        onClick: ({ key }) => choose(key),
      }}
    >
      {/* Whoever types before the list has the focus narrows it as well. */}
      <PartButton ref={button} {...part} {...(isOpen ? { onKeyDown } : {})} />
    </Dropdown>
  );
}

/** A part that is entered: its form opens in place with the focus in it, and closes with Enter, Escape or a click elsewhere. */
export function FormPart({
  children,
  startsOpen = false,
  ...part
}: PartProps & { children: (close: () => void) => ReactNode; startsOpen?: boolean }) {
  const [isOpen, setOpen] = useState(startsOpen);
  const button = useRef<HTMLButtonElement>(null);
  const wasOpen = useRef(false);
  useEffect(() => {
    const at = document.activeElement;
    // Whoever pressed something else goes on there.
    if (wasOpen.current && !isOpen && (at === document.body || at?.closest('.ant-popover')))
      button.current?.focus({ preventScroll: true });
    wasOpen.current = isOpen;
  }, [isOpen]);
  const close = () => setOpen(false);
  const form = (
    <Focused wanted={FIRST_CONTROL}>
      <form
        className={expressionStyle.partForm}
        onSubmit={(event) => {
          event.preventDefault();
          close();
        }}
        onKeyDown={(event) => {
          if (event.key === 'Escape') close();
        }}
      >
        {children(close)}
      </form>
    </Focused>
  );
  return (
    <Popover
      trigger="click"
      placement="bottomLeft"
      open={isOpen}
      onOpenChange={setOpen}
      content={form}
      destroyOnHidden
    >
      <PartButton ref={button} {...part} />
    </Popover>
  );
}

/** Closes the form of a part; what was entered stands already. */
export const Done = ({ close }: { close: () => void }) => (
  <Button size="small" type="primary" htmlType="submit" onClick={close}>
    Done
  </Button>
);
