import { WelcomePage } from '@/ui/sign-in/welcome-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Welcome' };

export default function Page() {
  return <WelcomePage />;
}
