import 'antd/dist/antd.css';
import { EARLY_PRESSES } from '@/ui/shell/early-presses';
import { Providers } from '@/ui/shell/providers';
import '@/ui/theme/base.css';
import { sessionAnswer } from '@/app/api/entering';
import { sessionHere } from '@/app/need-session';
import { NONCE_HEADER } from '@/server/requests/front';
import type { Metadata } from 'next';
import { headers } from 'next/headers';
import type { ReactNode } from 'react';

/** Each page is written for whoever asks: the scripts in it are marked as its own for this answer alone. */
export const dynamic = 'force-dynamic';

export const metadata: Metadata = {
  title: { default: 'Oikon', template: '%s · Oikon' },
  description: 'Rules over business records, verified before they go live.',
};

export default async function Layout({ children }: { children: ReactNode }) {
  const session = sessionAnswer(await sessionHere());
  // A browser shows a script's nonce to no script: it isn't there when the page is taken over.
  const nonce = (await headers()).get(NONCE_HEADER) ?? undefined;
  return (
    <html lang="en">
      <head>
        <script nonce={nonce} suppressHydrationWarning dangerouslySetInnerHTML={{ __html: EARLY_PRESSES }} />
      </head>
      <body>
        <Providers session={session}>{children}</Providers>
      </body>
    </html>
  );
}
