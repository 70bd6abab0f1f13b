import { SettingsPage } from '@/ui/settings/settings-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Settings' };

export default function Page() {
  return <SettingsPage />;
}
