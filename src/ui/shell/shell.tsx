'use client';

import { Dropdown } from 'antd';
import { type ReactNode, useEffect } from 'react';
import { Link, usePlace, useWorkspaceKey } from '@/ui/kit/navigation';
import { useWorkspaces } from '@/ui/api/queries';
import { useProposals } from '@/ui/api/today-queries';
import {
  BenchGlyph,
  LedgerGlyph,
  ModelGlyph,
  OikonMark,
  RecordsGlyph,
  RulesGlyph,
  TodayGlyph,
} from '@/ui/theme/glyphs';
import { rememberWorkspace } from './last-workspace';
import { usePerson } from '@/ui/api/person';
import { QuickSearch } from './quick-search';
import { clsx } from 'clsx';
import style from './shell.module.css';

const PLACES = [
  { path: '/today', name: 'Today', glyph: TodayGlyph },
  { path: '/model', name: 'Model', glyph: ModelGlyph },
  { path: '/rules', name: 'Rules', glyph: RulesGlyph, also: '/requests' },
  { path: '/bench', name: 'Bench', glyph: BenchGlyph },
  { path: '/records', name: 'Records', glyph: RecordsGlyph },
  { path: '/ledger', name: 'Ledger', glyph: LedgerGlyph },
] as const;

/** The rail of places on the left, and the place itself. */
export function Shell({ children }: { children: ReactNode }) {
  const path = usePlace();
  const workspace = useWorkspaceKey();
  useEffect(() => rememberWorkspace(workspace), [workspace]);
  const { data: proposals } = useProposals();
  const waiting = (proposals?.open ?? 0) + (proposals?.told ?? 0);
  return (
    <div className="shell">
      <nav className="rail" aria-label="Places">
        <Link href="/rules" className={style.railMark}>
          <OikonMark />
          Oikon
        </Link>
        <WorkspaceName workspace={workspace} />
        <QuickSearch />
        {PLACES.map(({ path: to, name, glyph: Glyph, ...place }) => (
          <Link
            key={to}
            href={to}
            className={style.railPlace}
            aria-current={
              path.startsWith(to) || ('also' in place && path.startsWith(place.also)) ? 'page' : undefined
            }
          >
            <Glyph size={22} />
            {name}
            {to === '/today' && waiting > 0 ? (
              <span className={style.railCount} aria-label={`${waiting} wait`}>
                {waiting > 99 ? '99+' : waiting}
              </span>
            ) : null}
          </Link>
        ))}
        <PersonSwitch />
      </nav>
      <main className="place">{children}</main>
    </div>
  );
}

/** Which workspace this is, and the way to the others. */
function WorkspaceName({ workspace }: { workspace: string }) {
  const { data } = useWorkspaces();
  const name = data?.workspaces.find(({ key }) => key === workspace)?.name ?? workspace;
  return (
    // A whole new page: nothing that is shown of one workspace lives on in another.
    <a href="/workspaces" className={style.railWorkspace} title={`${name}: all workspaces`}>
      <span className="visually-hidden">Workspace: </span>
      {name}
    </a>
  );
}

const initialsOf = (name: string) =>
  name
    .split(' ')
    .map((part) => part[0])
    .join('')
    .slice(0, 2);

function PersonSwitch() {
  const { people, id, choose } = usePerson();
  const person = people.find((candidate) => candidate.id === id);
  if (!person) return null;
  const items = people.map(({ id: key, name, role }) => ({
    key,
    label: (
      <>
        {name} <span className="quiet">· {role}</span>
      </>
    ),
  }));
  return (
    <div className={style.railFoot}>
      <Dropdown
        trigger={['click']}
        placement="topLeft"
        menu={{ items, selectable: true, selectedKeys: [person.id], onClick: ({ key }) => choose(key) }}
      >
        <button
          type="button"
          className={clsx('plain', style.railPerson)}
          aria-label={`Acting as ${person.name}. Change who acts`}
          style={{ textAlign: 'center' }}
        >
          <span className={style.railInitials} aria-hidden>
            {initialsOf(person.name)}
          </span>
          {person.name}
        </button>
      </Dropdown>
    </div>
  );
}
