'use client';

import { AntdRegistry } from '@ant-design/nextjs-registry';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { App, ConfigProvider } from 'antd';
import { type ReactNode, useEffect, useState } from 'react';
import { ApiProblem, isAway } from '@/ui/api/problem';
import { useReducedMotion } from '@/ui/kit/hooks/use-reduced-motion';
import { ANTD_THEME, STILL_THEME } from '@/ui/theme/antd-theme';
import { layBy } from '@/ui/api/at-hand';
import { writeByForm } from '@/ui/api/form';
import type { SessionAnswer } from '@/core/api';
import { PersonProvider } from '@/ui/api/person';
import { SessionProvider } from '@/ui/api/session';
import { LISTENS } from './early-presses';
import { Shell } from './shell';

writeByForm();

/** Milliseconds. */
const ASKED_AGAIN = 3_000;

const makeClient = () =>
  new QueryClient({
    defaultOptions: {
      queries: {
        refetchOnWindowFocus: false,
        staleTime: 5_000,
        // A refusal won't change by asking again; a server that is away may come back.
        retry: (count, error) => count < 2 && (!(error instanceof ApiProblem) || isAway(error)),
        // What an outage left unanswered is asked again until it is answered.
        refetchInterval: ({ state }) => (isAway(state.error) ? ASKED_AGAIN : false),
      },
    },
  });

/** What each page of a workspace stands in: who acts, and the rail. */
export function WorkspaceProviders({ children }: { children: ReactNode }) {
  return (
    <PersonProvider>
      <Shell>{children}</Shell>
    </PersonProvider>
  );
}

/** A page is seen before its script has come: what was pressed until then is pressed now, and what drives it from outside knows by a mark. */
const saysThatItListens = (): void => {
  document.documentElement.dataset.listens = '';
  window.dispatchEvent(new Event(LISTENS));
};

interface ProvidersProps {
  readonly session: SessionAnswer;
  readonly children: ReactNode;
}

/**
 * What each page stands in: styles, theme, data, and who is signed in. A theme within one that is still keeps its place as motion is switched off: alone,
 * whoever wants less motion would have the whole page drawn anew as it begins to listen, and lose what they did to it.
 */
export function Providers({ session, children }: ProvidersProps) {
  const [client] = useState(makeClient);
  const theme = useReducedMotion() ? STILL_THEME : ANTD_THEME;
  useEffect(saysThatItListens, []);
  return (
    <AntdRegistry>
      <ConfigProvider theme={STILL_THEME}>
        <ConfigProvider theme={theme} componentSize="middle" wave={{ disabled: true }}>
          <App>
            <QueryClientProvider client={client}>
              <SessionProvider value={session}>{children}</SessionProvider>
            </QueryClientProvider>
          </App>
        </ConfigProvider>
      </ConfigProvider>
    </AntdRegistry>
  );
}

/** Lays by what came with a page, before its queries ask. It stands here, with what is on every page: alone it would be a file of its own to ask for. */
export function FirstAnswers({ answers }: { answers: Readonly<Record<string, Promise<unknown>>> }) {
  for (const [address, answer] of Object.entries(answers)) layBy(address, answer);
  return null;
}
