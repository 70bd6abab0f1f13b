import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import type { ReactNode } from 'react';

/** What components stand in that look at data: nothing is asked for, and there is none but what a test puts there. */
export function Screen({ children }: { children: ReactNode }) {
  const client = new QueryClient({ defaultOptions: { queries: { enabled: false } } });
  return <QueryClientProvider client={client}>{children}</QueryClientProvider>;
}
