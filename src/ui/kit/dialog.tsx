'use client';

import { App, Modal, type ModalProps } from 'antd';
import { useState } from 'react';

const SEARCHED = '[role="combobox"]';
const PRESSED = '.ant-modal-footer';

/**
 * A dialog. What was typed into it isn't lost by Escape, or by a press beside it, without a question; the button that says “Not now” means it.
 */
export function Dialog({ onCancel, children, ...props }: ModalProps) {
  const { modal } = App.useApp();
  const [isTyped, setTyped] = useState(false);
  return (
    <Modal
      {...props}
      onCancel={(event) => {
        const isMeant = event.target instanceof Element && event.target.closest(PRESSED) !== null;
        if (!isTyped || isMeant) return onCancel?.(event);
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
        onInput={({ target }) => {
          if (target instanceof Element && !target.matches(SEARCHED)) setTyped(true);
        }}
      >
        {children}
      </div>
    </Modal>
  );
}
