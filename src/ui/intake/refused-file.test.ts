/** @jest-environment node */
import { refusedText } from './refused-file';

const CSV = { format: 'csv', encoding: 'utf-8', separator: ';' } as const;

test('refused rows stand as they do in the file, each once, with every reason', async () => {
  const file = new Blob(['Plot;Rent\r\nP-1;42\r\n"P;2";x\r\n"P-3;7\r\nP-4;"a\nb"\r\n']);
  const text = await refusedText(file, CSV, [
    { line: 3, column: 'Rent', message: 'Rent: not a number.' },
    { line: 3, column: 'Plot', message: 'Plot: too long.' },
    { line: 4, column: '', message: 'A quote is opened.' },
    { line: 6, column: 'Rent', message: 'Rent: “a b” isn’t one.' },
  ]);
  expect(text.split('\r\n')).toEqual([
    'Plot;Rent;Why it was refused',
    '"P;2";x;Rent: not a number. Plot: too long.',
    '"""P-3;7";;A quote is opened.',
    'P-4;"a\nb";Rent: “a b” isn’t one.',
  ]);
});

test('of JSON Lines by line, those that can’t be read as they stand', async () => {
  const file = new Blob(['{"Plot":"P-1"}\n{"Plot":"P-2","Rent":[1]}\nnot\n']);
  const plan = { format: 'jsonLines', encoding: 'utf-8', separator: ',' } as const;
  const text = await refusedText(file, plan, [
    { line: 2, column: 'Rent', message: 'Rent: no.' },
    { line: 3, column: '', message: 'No JSON.' },
  ]);
  expect(text.split('\r\n')).toEqual(['Plot,Rent,Why it was refused', 'P-2,[1],Rent: no.', 'not,,No JSON.']);
});
