import 'antd/dist/antd.css';
import { Providers } from '@/ui/shell/providers';
import '@/ui/theme/base.css';
import type { Metadata } from 'next';
import type { ReactNode } from 'react';

export const metadata: Metadata = {
  title: { default: 'Oikon', template: '%s · Oikon' },
  description: 'Rules over business records, verified before they go live.',
};

export default function Layout({ children }: { children: ReactNode }) {
  return (
    <html lang="en">
      <body>
        <Providers>{children}</Providers>
      </body>
    </html>
  );
}
