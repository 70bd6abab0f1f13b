import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';

const rooms = [...readFileSync('docs/rooms.md', 'utf8').matchAll(/^\| `([^`]+)` \| (.+) \|$/gm)];

/** What helps tests, and the addresses of pages and of the API, aren't rooms. */
const isRoom = (folder: string): boolean =>
  !/(^|\/)testing(\/|$)|^app\/(w|workspaces|sign-in|second-step|welcome|api\/)/.test(folder);

/** Folders that hold code, from `src` on. */
function foldersWithin(folder: string): string[] {
  const at = join('src', folder);
  const [folders, files] = [true, false].map((isFolder) =>
    readdirSync(at).filter((name) => statSync(join(at, name)).isDirectory() === isFolder),
  );
  const here = folder !== '' && files!.some((name) => /\.tsx?$/.test(name)) ? [folder] : [];
  return [
    ...here,
    ...folders!
      .map((name) => join(folder, name))
      .filter(isRoom)
      .flatMap(foldersWithin),
  ];
}

test('every folder of code stands on the map with a sentence, and no other', () => {
  const found = foldersWithin('');
  // They only hold other rooms.
  const parents = ['server/store', 'server/actions', 'server/queries'];
  expect(rooms.map(([, room]) => room).sort()).toEqual([...new Set([...found, ...parents])].sort());
  for (const [, , words] of rooms) expect(words!.length).toBeGreaterThan(6);
});

test('no folder has more than twenty files or so', () => {
  const large = foldersWithin('').filter(
    (folder) => readdirSync(join('src', folder)).filter((name) => /\.(tsx?|css)$/.test(name)).length > 22,
  );
  expect(large).toEqual([]);
});

test('what extending names is there', () => {
  const named = [...readFileSync('docs/extending.md', 'utf8').matchAll(/`(src\/[^`]+)`/g)].map(
    ([, path]) => path!,
  );
  expect(named.length).toBeGreaterThan(30);
  expect(named.filter((path) => !statSync(path, { throwIfNoEntry: false }))).toEqual([]);
});
