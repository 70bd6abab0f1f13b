import type { ModelView } from '@/core/api';
import { article } from '@/core/article';
import { everyWord } from '@/ui/kit/every-word';

/** Something that a search finds: a page to go to. */
export interface Found {
  readonly key: string;
  readonly kind: string;
  readonly name: string;
  readonly path: string;
}

const PAGES: readonly (readonly [name: string, path: string])[] = [
  ['Today', '/today'],
  ['Requests', '/requests'],
  ['Rules', '/rules'],
  ['Review of all rules', '/rules/review'],
  ['Bench', '/bench'],
  ['Records', '/records'],
  ['Model', '/model'],
  ['Ledger', '/ledger'],
];

/** Pages, and what can be begun on each type: “Write a rule on loans”, “Add a loan”, “Import loans”. */
export function commandsFor(model: ModelView | undefined, wanted: string): readonly Found[] {
  const holds = everyWord(wanted);
  const pages = PAGES.map(([name, path]): Found => ({ key: `page ${path}`, kind: 'Page', name, path }));
  const begun = (model?.types ?? []).flatMap(({ key, name, plural }): Found[] => {
    const [one, many] = [name.toLowerCase(), plural.toLowerCase()];
    return [
      {
        key: `rule on ${key}`,
        kind: 'Begin',
        name: `Write a rule on ${many}`,
        path: `/rules/new?type=${key}`,
      },
      { key: `new ${key}`, kind: 'Begin', name: `Add ${article(name)} ${one}`, path: `/records/${key}/new` },
      { key: `import ${key}`, kind: 'Begin', name: `Import ${many}`, path: `/records/${key}/import` },
      { key: `try ${key}`, kind: 'Begin', name: `Try ${many} on the bench`, path: `/bench?type=${key}` },
    ];
  });
  return [...pages, ...begun].filter(({ name }) => holds(name)).slice(0, MOST_COMMANDS);
}

const MOST_COMMANDS = 6;
