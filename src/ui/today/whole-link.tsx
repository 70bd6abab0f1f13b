import type { ReactNode } from 'react';
import { useSeesPart } from '@/ui/api/may';
import { Link } from '@/ui/kit/navigation';

/** A link to a place that shows all of the workspace: for who sees a part it is only named. */
export const WholeLink = ({ href, children }: { readonly href: string; readonly children: ReactNode }) =>
  useSeesPart() ? <>{children}</> : <Link href={href}>{children}</Link>;
