import { FirstAnswers, firsts } from '@/app/w/first-answers';
import { needSession } from '@/app/need-session';
import { WorkspaceProviders } from '@/ui/shell/providers';
import type { ReactNode } from 'react';

interface Props {
  readonly children: ReactNode;
  readonly params: Promise<{ w: string }>;
}

export default async function Layout({ children, params }: Props) {
  const { w } = await params;
  await needSession(w);
  return (
    <>
      <FirstAnswers w={w} of={firsts('/people', '/proposals', '/types')} withWorkspaces />
      <WorkspaceProviders>{children}</WorkspaceProviders>
    </>
  );
}
