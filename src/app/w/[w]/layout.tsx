import { WorkspaceProviders } from '@/ui/shell/providers';
import type { ReactNode } from 'react';

export default function Layout({ children }: { children: ReactNode }) {
  return <WorkspaceProviders>{children}</WorkspaceProviders>;
}
