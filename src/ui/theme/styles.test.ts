import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';

/** TypeScript knows any name of a sheet: these hold what components ask for against what their sheets have. */

const FOLDER = 'src/ui';
const files = readdirSync(FOLDER, { recursive: true, encoding: 'utf8' }).map((name) => join(FOLDER, name));
const sheets = files.filter((name) => name.endsWith('.module.css'));
const sources = files.filter((name) => /\.tsx?$/.test(name) && !name.includes('.test.'));

/** The classes of a sheet that are its own. */
const classesOf = (text: string): ReadonlySet<string> =>
  new Set(
    [...text.replace(/:global\([^)]*\)/g, '').matchAll(/\.([a-zA-Z][\w-]*)(?=[^{}]*\{)/g)].map(
      ([, name]) => name ?? '',
    ),
  );

interface Use {
  readonly file: string;
  readonly sheet: string;
  readonly names: readonly string[];
}

const uses: readonly Use[] = sources.flatMap((file) => {
  const text = readFileSync(file, 'utf8');
  return [...text.matchAll(/^import (\w+) from '([^']+\.module\.css)';$/gm)].map(
    ([, local = '', path = '']) => ({
      file,
      sheet: path.startsWith('@/') ? `src/${path.slice(2)}` : join(dirname(file), path),
      names: [...text.matchAll(new RegExp(`(?<![\\w.'/])${local}\\.(\\w+)`, 'g'))].map(
        ([, name]) => name ?? '',
      ),
    }),
  );
});

test('what a component asks of a sheet stands in it', () => {
  expect(uses.length).toBeGreaterThan(100);
  const missing = uses.flatMap(({ file, sheet, names }) => {
    const has = classesOf(readFileSync(sheet, 'utf8'));
    return names.filter((name) => !has.has(name)).map((name) => `${file}: ${name} isn’t in ${sheet}`);
  });
  expect(missing).toEqual([]);
});

test('nothing stands in a sheet that no component asks for', () => {
  const left = sheets.flatMap((sheet) => {
    const asked = new Set(uses.flatMap((use) => (use.sheet === sheet ? use.names : [])));
    return [...classesOf(readFileSync(sheet, 'utf8'))]
      .filter((name) => !asked.has(name))
      .map((name) => `${sheet}: ${name}`);
  });
  expect(left).toEqual([]);
});
