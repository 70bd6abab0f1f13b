'use client';

import { clsx } from 'clsx';
import { Button, Dropdown, type MenuProps, Popover } from 'antd';
import { type ReactNode, useEffect, useRef, useState } from 'react';
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

export interface Choice {
  readonly key: string;
  readonly name: ReactNode;
  readonly note?: string;
  readonly isDisabled?: boolean;
  readonly children?: readonly Choice[];
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
    ...(children ? { children: itemsOf(children) } : {}),
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

/** Moves the focus into a menu that opens, as soon as it is shown, so that arrows and Enter work at once. */
function Focused({ children }: { children: ReactNode }) {
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let frame = 0;
    const focus = (left: number) => {
      const first = box.current?.querySelector<HTMLElement>('[role="menuitem"]:not([aria-disabled="true"])');
      first?.focus();
      if (left > 0 && document.activeElement !== first) frame = requestAnimationFrame(() => focus(left - 1));
    };
    focus(MOST_FRAMES);
    return () => cancelAnimationFrame(frame);
  }, []);
  return (
    <div ref={box} className={style.partMenu}>
      {children}
    </div>
  );
}

/** A part of the sentence that is chosen from a list. An empty list says why. */
export function MenuPart({
  choices,
  onChoose,
  nothing,
  ...part
}: PartProps & { choices: readonly Choice[]; onChoose: (key: string) => void; nothing?: string }) {
  const items =
    choices.length > 0
      ? itemsOf(choices)
      : [{ key: '', label: nothing ?? 'There is nothing to choose from.', disabled: true }];
  const button = useRef<HTMLButtonElement>(null);
  const choose = (key: string) => {
    onChoose(key);
    button.current?.focus();
  };
  return (
    <Dropdown
      trigger={['click']}
      destroyOnHidden
      popupRender={(menu) => <Focused>{menu}</Focused>}
      menu={{ items, onClick: ({ key }) => choose(key) }}
    >
      <PartButton ref={button} {...part} />
    </Dropdown>
  );
}

/** A part that is entered: its form opens in place and closes with Enter, Escape or a click elsewhere. */
export function FormPart({
  children,
  startsOpen = false,
  ...part
}: PartProps & { children: (close: () => void) => ReactNode; startsOpen?: boolean }) {
  const [isOpen, setOpen] = useState(startsOpen);
  const close = () => setOpen(false);
  const form = (
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
      <PartButton {...part} />
    </Popover>
  );
}

/** Closes the form of a part; what was entered stands already. */
export const Done = ({ close }: { close: () => void }) => (
  <Button size="small" type="primary" onClick={close}>
    Done
  </Button>
);
