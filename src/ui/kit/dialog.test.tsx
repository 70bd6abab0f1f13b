import { fireEvent, render, screen } from '@testing-library/react';
import { App } from 'antd';
import { createPortal } from 'react-dom';
import { Dialog } from './dialog';

function shown(props: { readonly isReady: boolean; readonly onOk: () => void }) {
  render(
    <App>
      <Dialog
        open
        title="Rename it"
        okText="Keep it"
        okButtonProps={{ disabled: !props.isReady }}
        onOk={props.onOk}
      >
        <input aria-label="Name" />
        <input aria-label="Choice" role="combobox" aria-expanded="false" aria-controls="none" />
        {createPortal(<input aria-label="Over it" />, document.body)}
      </Dialog>
    </App>,
  );
}
const enter = (name: string) => fireEvent.keyDown(screen.getByLabelText(name), { key: 'Enter' });

test('Enter in a line of text finishes it; in a choice, and in what opens over it, it doesn’t', () => {
  let times = 0;
  shown({ isReady: true, onOk: () => (times += 1) });
  enter('Choice');
  enter('Over it');
  expect(times).toBe(0);
  enter('Name');
  expect(times).toBe(1);
});

test('nor while it can’t be finished', () => {
  let times = 0;
  shown({ isReady: false, onOk: () => (times += 1) });
  enter('Name');
  expect(times).toBe(0);
});
