'use client';

import { type ReactNode, useEffect, useEffectEvent, useRef } from 'react';
import { Link, usePlace, useWorkspaceKey } from '@/ui/kit/navigation';
import { useWorkspaces } from '@/ui/api/queries';
import { useProposals } from '@/ui/api/today-queries';
import {
  BenchGlyph,
  LedgerGlyph,
  ModelGlyph,
  OikonMark,
  RecordsGlyph,
  RequestsGlyph,
  RulesGlyph,
  HelpGlyph,
  SettingsGlyph,
  TodayGlyph,
} from '@/ui/theme/glyphs';
import { Button } from 'antd';
import dynamic from 'next/dynamic';
import { useHelp } from '@/ui/help/use-help';
import { Shortcuts } from './shortcuts';
import { UnsavedQuestion } from '@/ui/kit/unsaved';
import { rememberForm } from '@/ui/api/form';
import { rememberWorkspace } from './last-workspace';
import { useSeesPart } from '@/ui/api/may';
import { seeAs, useSeenAs } from '@/ui/api/see-as';
import { usePerson } from '@/ui/api/person';
import { useSession } from '@/ui/api/session';
import { PersonSwitch } from './person-switch';
import { QuickSearch } from './quick-search';
import { clsx } from 'clsx';
import style from './shell.module.css';

const PLACES = [
  { path: '/today', name: 'Today', glyph: TodayGlyph },
  { path: '/requests', name: 'Requests', glyph: RequestsGlyph },
  { path: '/rules', name: 'Rules', glyph: RulesGlyph },
  { path: '/bench', name: 'Bench', glyph: BenchGlyph },
  { path: '/records', name: 'Records', glyph: RecordsGlyph },
  { path: '/model', name: 'Model', glyph: ModelGlyph },
  { path: '/ledger', name: 'Ledger', glyph: LedgerGlyph },
  { path: '/settings', name: 'Settings', glyph: SettingsGlyph },
] as const;

/** Places that show whoever sees only a part of the workspace that part; all others would show all. */
const isOpen = (path: string): boolean =>
  ['/today', '/records', '/joined', '/settings'].some((place) => path.startsWith(place)) &&
  !path.includes('/import');

/** Loaded when it is first opened. */
const HelpPanel = dynamic(() => import('@/ui/help/help-panel').then((module) => module.HelpPanel), {
  ssr: false,
});

/** The rail of places on the left, the place itself, and help beside it where it is wanted. */
export function Shell({ children }: { children: ReactNode }) {
  const path = usePlace();
  const { isDemo } = useSession();
  const workspace = useWorkspaceKey();
  useEffect(() => rememberWorkspace(workspace), [workspace]);
  useForm(workspace);
  const seesPart = useSeesPart();
  const { data: proposals } = useProposals(false);
  const waiting = (proposals?.open ?? 0) + (proposals?.told ?? 0);
  const [isHelped, keepHelp] = useHelp();
  const help = useRef<HTMLButtonElement>(null);
  const setHelp = (isOpen: boolean) => {
    keepHelp(isOpen ? true : null);
    if (!isOpen) help.current?.focus();
  };
  useHelpKey(() => setHelp(!isHelped));
  return (
    <div className={isHelped ? 'shell shell-helped' : 'shell'}>
      <nav className="rail" aria-label="Places">
        <Link href="/today" className={style.railMark}>
          <OikonMark />
          Oikon
          {isDemo ? (
            <span
              className={style.railDemo}
              title="Made-up data. Nobody signs in: choose who you are at the foot of the rail."
            >
              Demo
            </span>
          ) : null}
        </Link>
        <WorkspaceName workspace={workspace} />
        <QuickSearch />
        {(seesPart ? PLACES.filter(({ path: to }) => isOpen(to)) : PLACES).map(
          ({ path: to, name, glyph: Glyph }) => (
            <Link
              key={to}
              href={to}
              className={style.railPlace}
              aria-current={path.startsWith(to) ? 'page' : undefined}
            >
              <Glyph size={22} />
              {name}
              {to === '/today' && waiting > 0 ? (
                <span className={style.railCount} aria-label={`${waiting} wait`}>
                  {waiting > 99 ? '99+' : waiting}
                </span>
              ) : null}
            </Link>
          ),
        )}
        <button
          ref={help}
          type="button"
          className={clsx('plain', style.railPlace, style.railHelp)}
          aria-expanded={isHelped}
          title="Help (F1)"
          onClick={() => setHelp(!isHelped)}
        >
          <HelpGlyph size={22} />
          Help
        </button>
        <PersonSwitch />
      </nav>
      <UnsavedQuestion />
      <Shortcuts />
      <main className="place">
        <SeenAs />
        {seesPart && !isOpen(path) ? <Closed /> : children}
      </main>
      {isHelped ? <HelpPanel onClose={() => setHelp(false)} /> : null}
    </div>
  );
}

/** Says that the workspace is looked at as a role does, and leads back. */
function SeenAs() {
  const role = useSeenAs();
  const workspace = useWorkspaceKey();
  if (!role) return null;
  return (
    <p role="status" className={style.seenAs}>
      You see this workspace as {role.name} does; nothing is saved meanwhile.{' '}
      <Button size="small" onClick={() => seeAs(workspace, null)}>
        See all again
      </Button>
    </p>
  );
}

/** Stands for a place that would show what somebody doesn't see. */
const Closed = () => (
  <>
    <header className="place-head">
      <h1>This place shows all of the workspace</h1>
    </header>
    <div className="place-body">
      <p>
        What you are here shows you a part of it: the records that you see are under{' '}
        <Link href="/records">Records</Link>. Whoever administers the workspace says what you see.
      </p>
    </div>
  </>
);

/** F1 opens help, and closes it. */
function useHelpKey(toggle: () => void): void {
  const onKey = useEffectEvent(toggle);
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.key !== 'F1') return;
      event.preventDefault();
      onKey();
    };
    addEventListener('keydown', listen);
    return () => removeEventListener('keydown', listen);
  }, []);
}

/** Has the page opened anew where it writes numbers and dates otherwise than the workspace, or whoever acts, does. */
function useForm(workspace: string): void {
  const { data } = useWorkspaces();
  const { people, id } = usePerson();
  const common = data?.workspaces.find(({ key }) => key === workspace)?.form;
  const person = people.find((one) => one.id === id);
  const form = person && common ? (person.form ?? common) : null;
  useEffect(() => {
    if (form && rememberForm(workspace, form) === 'openAnew') location.reload();
  }, [workspace, form]);
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
