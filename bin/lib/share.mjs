// Says which share of the lines of code are tests: `*.test.ts(x)`, `e2e/`, and what helps them in `testing/`.
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';

const files = execFileSync('git', ['ls-files', 'src', 'e2e', 'bench', 'bin'], { encoding: 'utf8' })
  .split('\n')
  .filter((file) => /\.(tsx?|css|mjs)$|^bin\/[^.]*$/.test(file));
const isTest = (file) => /\.test\.tsx?$|^e2e\/|\/testing\//.test(file);
const lines = { tests: 0, all: 0 };
for (const file of files) {
  const number = readFileSync(file, 'utf8').split('\n').length - 1;
  lines.all += number;
  if (isTest(file)) lines.tests += number;
}
const inWords = (number) => number.toLocaleString('en');
const share = ((100 * lines.tests) / lines.all).toFixed(1);
console.log(`${share} % of the code are tests: ${inWords(lines.tests)} of ${inWords(lines.all)} lines`);
