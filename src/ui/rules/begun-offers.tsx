'use client';

import { Button } from 'antd';
import { useEffect, useState } from 'react';
import { useWorkspaceKey } from '@/ui/kit/navigation';
import { hold } from '@/ui/kit/unsaved';
import { when } from '@/ui/kit/values/when';
import { type Begun, begunOn, dropBegun, dropEntry, keepBegun, type Written } from './drafts/begun';

/** Keeps what is being written in this browser, and says what was begun before and not saved. */
export function useBegun(rule: string | null, written: Written, isChanged: boolean) {
  const workspace = useWorkspaceKey();
  const [session] = useState(() => crypto.randomUUID());
  const [offers, setOffers] = useState(() => begunOn(workspace, rule));
  useEffect(() => {
    if (!isChanged) return dropBegun(workspace, rule, session);
    // Where this browser keeps nothing, whoever leaves is asked.
    return keepBegun(workspace, rule, session, written) ? undefined : hold('Changes of the rule');
  }, [workspace, rule, session, written, isChanged]);
  return {
    offers,
    take: (one: Begun): void => {
      dropEntry(one);
      setOffers(offers.filter((other) => other !== one));
    },
    /** It is saved: nothing is to be offered again. */
    end: (): void => dropBegun(workspace, rule, session),
  };
}

interface OffersProps {
  readonly offers: readonly Begun[];
  readonly onTake: (one: Begun) => void;
  readonly onForget: (one: Begun) => void;
}

/** What was begun and not saved, to go on with. */
export function BegunOffers({ offers, onTake, onForget }: OffersProps) {
  return offers.map((one) => (
    <p key={one.key} className="advice" role="status">
      {one.name ? `“${one.name}”, begun` : 'What you began'} on {when(one.at)}, isn’t saved.{' '}
      <Button size="small" type="primary" onClick={() => onTake(one)}>
        Go on with it
      </Button>{' '}
      <Button size="small" onClick={() => onForget(one)}>
        Forget it
      </Button>
    </p>
  ));
}
