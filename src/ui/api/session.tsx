'use client';

import type { SessionAnswer } from '@/core/api';
import { createContext, useContext } from 'react';

const Context = createContext<SessionAnswer>({
  ...{ isDemo: true, person: null },
  ways: { provider: null, mail: false },
});

/** Who is signed in, as the page was written for; a page of another person is another page. */
export const SessionProvider = Context;

export const useSession = (): SessionAnswer => useContext(Context);
