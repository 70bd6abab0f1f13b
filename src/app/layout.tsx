import 'antd/dist/antd.css';
import { Providers } from '@/ui/shell/providers';
import '@/ui/theme/base.css';
import { sessionAnswer } from '@/app/api/entering';
import { sessionHere } from '@/app/need-session';
import type { Metadata } from 'next';
import type { ReactNode } from 'react';

/** Each page is written for whoever asks: the scripts in it are marked as its own for this answer alone. */
export const dynamic = 'force-dynamic';

export const metadata: Metadata = {
  title: { default: 'Oikon', template: '%s · Oikon' },
  description: 'Rules over business records, verified before they go live.',
};

export default async function Layout({ children }: { children: ReactNode }) {
  const session = sessionAnswer(await sessionHere());
  return (
    <html lang="en">
      <body>
        <Providers session={session}>{children}</Providers>
      </body>
    </html>
  );
}
