'use client';

import type { UnfinishedRule } from '@/core/api';
import { App, Button } from 'antd';
import { useState } from 'react';
import { useSearchParams } from 'next/navigation';
import { callApi } from '@/ui/api/client';
import { useUnfinishedRules } from '@/ui/api/queries';
import { Link } from '@/ui/kit/navigation';
import { unfinishedPath } from '@/ui/kit/paths';
import { when } from '@/ui/kit/values/when';
import { KindGlyph } from '@/ui/theme/glyphs';
import type { Written } from './drafts/begun';
import { wholeDraft } from './drafts/drafts';
import type { Saving } from './rule-actions';
import { clsx } from 'clsx';
import style from './rules-page.module.css';

const writtenOf = ({ content, name, note }: UnfinishedRule): Written => ({
  draft: wholeDraft(content),
  name,
  note,
});

interface Unfinished {
  /** What is kept of this rule and isn't gone on with yet. */
  readonly offers: readonly UnfinishedRule[];
  readonly take: (one: UnfinishedRule) => void;
  readonly keep: () => void;
  /** It is saved: nothing of it is kept unfinished any more. */
  readonly end: (person: string | null) => Promise<void>;
}

/** What is kept unfinished of a rule, on the server: for everybody, and from any browser. */
export function useUnfinished(
  rule: string | null,
  written: Written,
  onTake: (written: Written) => void,
  saving: Pick<Saving, 'run'>,
): Unfinished {
  const { message } = App.useApp();
  const { data } = useUnfinishedRules();
  const [taken, setTaken] = useState<string | null>(null);
  const keep = () =>
    void saving
      .run((person) =>
        callApi<UnfinishedRule>('/unfinished-rules', {
          ...{ method: 'POST', person },
          body: {
            ...(taken ? { id: taken } : {}),
            ...{ rule, name: written.name, note: written.note, content: written.draft },
          },
        }),
      )
      .then((kept) => {
        if (!kept) return;
        setTaken(kept.id);
        message.success('Kept unfinished. It stands under the rules, for whoever goes on with it.');
      });
  return {
    offers: (data?.rules ?? []).filter((one) => one.rule === rule && one.id !== taken),
    take: (one) => {
      setTaken(one.id);
      onTake(writtenOf(one));
    },
    keep,
    end: async (person) => {
      if (taken) await callApi(`/unfinished-rules/${taken}`, { method: 'DELETE', person });
    },
  };
}

interface OffersProps {
  readonly unfinished: Unfinished;
  readonly saving: Pick<Saving, 'run'>;
}

/** What is kept unfinished, to go on with; the one that was asked for in the address comes first. */
export function UnfinishedOffers({ unfinished: { offers, take }, saving }: OffersProps) {
  const wanted = useSearchParams().get('unfinished');
  const first = offers.filter(({ id }) => id === wanted);
  return [...first, ...(wanted ? [] : offers)].map((one) => (
    <p key={one.id} className="advice" role="status">
      {one.name ? `“${one.name}”` : 'A rule'}, kept unfinished by {one.person} on {when(one.at)}.{' '}
      <Button size="small" type="primary" onClick={() => take(one)}>
        Go on with it
      </Button>{' '}
      <Button size="small" onClick={() => forget(one, saving)}>
        Forget it
      </Button>
    </p>
  ));
}

const forget = ({ id }: UnfinishedRule, saving: Pick<Saving, 'run'>) =>
  void saving.run((person) => callApi(`/unfinished-rules/${id}`, { method: 'DELETE', person }));

/** Rules of which parts aren't chosen yet, under the list of rules; shown only where there are some. */
export function UnfinishedRules() {
  const { data } = useUnfinishedRules();
  if (!data || data.rules.length === 0) return null;
  return (
    <section className={clsx('sheet', style.unfinishedSheet)} aria-label="Unfinished rules">
      <div className="sheet-head">
        <h2>Unfinished</h2>
        <span className="quiet">{data.rules.length}</span>
      </div>
      <ul className={style.unfinished}>
        {data.rules.map((one) => (
          <li key={one.id}>
            <KindGlyph kind={one.content.kind} size={14} />{' '}
            <Link href={unfinishedPath(one)}>{one.name || 'A rule without a name'}</Link>{' '}
            <span className="quiet">
              {one.rule ? 'a change, ' : ''}by {one.person}, {when(one.at)}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
