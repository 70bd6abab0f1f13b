'use client';

import { safePath } from '@/core/api';
import { useSearchParams } from 'next/navigation';
import { Passkeys } from '@/ui/account/passkeys';
import { SecondStep } from '@/ui/account/second-step';
import { openPage } from '@/ui/api/open-page';
import { useSignOut } from '@/ui/account/use-sign-out';
import { Button } from 'antd';
import { useState } from 'react';
import { Entrance } from './entrance';

/** Where one comes whose role wants a second step: one sets it up, and goes on to where one was going. */
export function SecondStepPage() {
  const to = safePath(useSearchParams().get('to'));
  const signOut = useSignOut();
  const [isMade, setMade] = useState(false);
  return (
    <Entrance
      title="A second step"
      lead="What you are in this workspace wants more of you than a password. Set up one of these two; you need it each time that you sign in."
    >
      <Passkeys onMade={() => setMade(true)} />
      {isMade ? (
        <p role="status">
          The passkey is made. <Button onClick={signOut}>Sign in with it</Button>
        </p>
      ) : null}
      <SecondStep onSet={() => openPage(to)} />
    </Entrance>
  );
}
