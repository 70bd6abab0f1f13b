'use client';

import { App, Modal, type ModalProps } from 'antd';
import { type CSSProperties, useRef, useState } from 'react';

const SEARCHED = '[role="combobox"]';
const PRESSED = '.ant-modal-footer';
/** Where Enter ends what is typed, and not something of its own. */
const FINISHED = 'input:not([type="checkbox"]):not([type="radio"]):not([role="combobox"])';
const TYPED = 'input, textarea, [contenteditable="true"]';
const OF_ITS_OWN = '.ant-picker, .ant-select';

/** What has the focus as a dialog opens, so that one types at once. */
const FIRST = [
  'input:not([type="file"]):not([type="hidden"]):not([disabled])',
  'textarea:not([disabled])',
  '[contenteditable="true"]',
].join(', ');

/** What a dialog holds is scrolled within it, so that its buttons never lie beneath the edge. */
const SCROLLED: CSSProperties = {
  maxHeight: 'calc(100vh - 250px)',
  overflowY: 'auto',
  // What stands at the edge keeps its outline.
  marginInline: -4,
  paddingInline: 4,
};

/** Whether anything stands in a line of a dialog: what was typed and carried out, or taken back, isn't lost. */
const holdsText = (body: HTMLElement | null): boolean =>
  [...(body?.querySelectorAll<HTMLElement>(TYPED) ?? [])].some((line) =>
    line instanceof HTMLInputElement || line instanceof HTMLTextAreaElement
      ? line.value !== ''
      : line.textContent !== '',
  );

/**
 * A dialog. Enter in a line of text finishes it, as its button does. What was typed into it isn't lost by Escape, or by a press beside it, without a question; the button that says “Not now” means it.
 */
export function Dialog({ onCancel, children, ...props }: ModalProps) {
  const { onOk, okButtonProps, confirmLoading, footer } = props;
  const canFinish = footer !== null && !okButtonProps?.disabled && !okButtonProps?.loading && !confirmLoading;
  const { modal } = App.useApp();
  const [isTyped, setTyped] = useState(false);
  const body = useRef<HTMLDivElement>(null);
  return (
    <Modal
      styles={{ body: SCROLLED }}
      {...props}
      afterOpenChange={(isOpen) => {
        props.afterOpenChange?.(isOpen);
        const isElsewhere = document.activeElement?.closest(TYPED) === null;
        if (isOpen && isElsewhere) body.current?.querySelector<HTMLElement>(FIRST)?.focus();
      }}
      onCancel={(event) => {
        const isMeant = event.target instanceof Element && event.target.closest(PRESSED) !== null;
        if (!isTyped || isMeant || !holdsText(body.current)) return onCancel?.(event);
        void modal.confirm({
          title: 'Give up what you entered?',
          content: 'Nothing of it is saved.',
          okText: 'Give it up',
          cancelText: 'Go on with it',
          onOk: () => onCancel?.(event),
        });
      }}
    >
      <div
        ref={body}
        onKeyDown={(event) => {
          const { target } = event;
          if (event.key !== 'Enter' || event.isDefaultPrevented() || !(target instanceof Element)) return;
          // What opens over the dialog has its own end.
          if (!event.currentTarget.contains(target)) return;
          if (!target.matches(FINISHED) || target.closest(OF_ITS_OWN) || !canFinish || !onOk) return;
          event.preventDefault();
          // Whoever hears Enter as the press of the button that it stands for is told of one.
          target
            .closest('.ant-modal')
            ?.querySelector<HTMLElement>(`${PRESSED} .ant-btn-primary, ${PRESSED} .ant-btn-dangerous`)
            ?.click();
        }}
        onInput={({ target }) => {
          if (target instanceof Element && !target.matches(SEARCHED)) setTyped(true);
        }}
      >
        {children}
      </div>
    </Modal>
  );
}
