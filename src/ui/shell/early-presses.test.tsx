import { fireEvent, render, screen } from '@testing-library/react';
import { useState } from 'react';
import { keepEarlyPresses, LISTENS } from './early-presses';

/** What was done, in the order in which it was. */
let done: string[] = [];

function Place() {
  const [text, setText] = useState('');
  const [isMarked, setMarked] = useState(false);
  return (
    <>
      <input aria-label="Search" value={text} onChange={({ target }) => setText(target.value)} />
      <p>{`Searched: ${text}`}</p>
      <input type="checkbox" aria-label="Mark" checked={isMarked} onChange={() => setMarked(!isMarked)} />
      <p>{isMarked ? 'Marked' : 'Not marked'}</p>
      <button onMouseDown={() => done.push('opened')} onClick={() => done.push('chosen')}>
        Choose
      </button>
      <button onClick={() => done.push('made')}>Make</button>
      <a href="#there" onClick={() => done.push('followed')}>
        There
      </a>
    </>
  );
}

/** The page as the server wrote it, then what a person does to it, then its script. */
function hydratedAfter(presses: () => void) {
  const { container: drawn, unmount } = render(<Place />);
  const written = drawn.innerHTML;
  unmount();
  const container = document.body.appendChild(document.createElement('div'));
  container.innerHTML = written;
  keepEarlyPresses(LISTENS);
  presses();
  expect(done).toEqual([]);
  render(<Place />, { container, hydrate: true });
  fireEvent(window, new Event(LISTENS));
}

beforeEach(() => (done = []));

test('what is pressed before the page listens is done once it does, in the same order', () => {
  hydratedAfter(() => {
    fireEvent.mouseDown(screen.getByText('Choose'));
    fireEvent.click(screen.getByText('Choose'));
    fireEvent.click(screen.getByText('Make'));
  });
  expect(done).toEqual(['opened', 'chosen', 'made']);
  fireEvent.click(screen.getByText('Make'));
  expect(done).toEqual(['opened', 'chosen', 'made', 'made']);
});

test('a box that is marked before is marked once', () => {
  hydratedAfter(() => fireEvent.click(screen.getByLabelText('Mark')));
  expect(screen.getByLabelText<HTMLInputElement>('Mark').checked).toBe(true);
  screen.getByText('Marked');
});

test('what is typed before stands, and is known', () => {
  hydratedAfter(() => fireEvent.input(screen.getByLabelText('Search'), { target: { value: 'loans' } }));
  expect(screen.getByLabelText<HTMLInputElement>('Search').value).toBe('loans');
  screen.getByText('Searched: loans');
});

test('a key is heard; a link is followed at once, and not again', () => {
  const keys: string[] = [];
  const hear = ({ key }: KeyboardEvent) => keys.push(key);
  hydratedAfter(() => {
    fireEvent.keyDown(document.body, { key: 'k', ctrlKey: true });
    expect(fireEvent.click(screen.getByText('There'))).toBe(true);
    document.addEventListener('keydown', hear);
  });
  document.removeEventListener('keydown', hear);
  expect(keys).toEqual(['k']);
  expect(done).toEqual([]);
});
