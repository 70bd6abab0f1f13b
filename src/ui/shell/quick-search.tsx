'use client';

import type { FoundRecord } from '@/core/api';
import { leave } from '@/ui/kit/unsaved';
import { Input } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useDeferredValue, useEffect, useId, useState } from 'react';
import { useRouter } from '@/ui/kit/navigation';
import { callApi } from '@/ui/api/client';
import { useSeesPart } from '@/ui/api/may';
import { useModelView, useRules } from '@/ui/api/queries';
import { commandsFor, type Found } from './commands';
import { clsx } from 'clsx';
import style from './quick-search.module.css';

/** What a search over everything finds: places to look at, by their names. */
function useFound(text: string): { found: readonly Found[]; isCurrent: boolean } {
  const wanted = useDeferredValue(text.trim());
  const model = useModelView();
  const rules = useRules(!useSeesPart());
  const records = useQuery({
    queryKey: ['records', 'search', wanted],
    queryFn: () => callApi<{ records: FoundRecord[] }>(`/search?text=${encodeURIComponent(wanted)}`),
    enabled: wanted !== '',
    placeholderData: keepPreviousData,
  });
  if (wanted === '') return { found: [], isCurrent: true };
  const holds = (name: string) => name.toLowerCase().includes(wanted.toLowerCase());
  const types = (model.data?.types ?? [])
    .filter(({ name, plural }) => holds(name) || holds(plural))
    .map(({ key, plural }): Found => ({
      key: `type ${key}`,
      kind: 'List',
      name: plural,
      path: `/records/${key}`,
    }));
  const named = (rules.data?.rules ?? [])
    .filter(({ name, sentence }) => holds(name) || holds(sentence))
    .slice(0, 6)
    .map(({ id, name }): Found => ({ key: `rule ${id}`, kind: 'Rule', name, path: `/rules/${id}` }));
  const titled = (records.data?.records ?? []).map(({ type, typeName, id, title }): Found => ({
    ...{ key: `record ${id}`, kind: typeName, name: title, path: `/records/${type}/${id}` },
  }));
  const commands = commandsFor(model.data, wanted);
  return {
    found: [...types, ...named, ...titled, ...commands],
    isCurrent: !records.isFetching && wanted === text.trim(),
  };
}

/** Opens with Ctrl+K (or ⌘K) from anywhere, and from the rail. */
export function QuickSearch() {
  const [isOpen, setOpen] = useState(false);
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        setOpen(true);
      }
    };
    addEventListener('keydown', listen);
    return () => removeEventListener('keydown', listen);
  }, []);
  return (
    <>
      <button
        type="button"
        className={clsx('plain', style.railSearch)}
        onClick={() => setOpen(true)}
        aria-keyshortcuts="Control+K"
      >
        Search
        <kbd>Ctrl K</kbd>
      </button>
      {isOpen ? <SearchDialog onClose={() => setOpen(false)} /> : null}
    </>
  );
}

function SearchDialog({ onClose }: { onClose: () => void }) {
  const router = useRouter();
  const ids = useId();
  const [text, setText] = useState('');
  const [at, setAt] = useState(0);
  const { found, isCurrent } = useFound(text);
  const chosen = found[Math.min(at, found.length - 1)];
  const go = (one: Found | undefined) => {
    if (!one) return;
    leave(() => router.push(one.path));
    onClose();
  };
  const move = (by: number) =>
    setAt((now) => Math.max(0, Math.min(found.length - 1, Math.min(now, found.length - 1) + by)));
  return (
    <Dialog open title="Search everything" footer={null} onCancel={onClose} width={560} destroyOnHidden>
      <Input
        autoFocus
        role="combobox"
        aria-label="Search everything"
        aria-expanded={found.length > 0}
        aria-controls={`${ids}-found`}
        aria-activedescendant={chosen ? `${ids}-${chosen.key}` : undefined}
        placeholder="A record, a rule, a page, or what to begin"
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          if (event.key === 'ArrowDown') move(1);
          else if (event.key === 'ArrowUp') move(-1);
          else if (event.key === 'Enter') go(chosen);
          else return;
          event.preventDefault();
        }}
      />
      <ul id={`${ids}-found`} role="listbox" aria-label="Found" className={style.searchFound}>
        {found.map((one) => (
          <li
            key={one.key}
            id={`${ids}-${one.key}`}
            role="option"
            aria-selected={one === chosen}
            onClick={() => go(one)}
            onMouseMove={() => setAt(found.indexOf(one))}
          >
            <span>{one.name}</span> <span className="quiet">{one.kind}</span>
          </li>
        ))}
      </ul>
      <p className="quiet" role="status">
        {text.trim() !== '' && isCurrent && found.length === 0 ? 'Nothing has that in its name.' : ''}
      </p>
    </Dialog>
  );
}
