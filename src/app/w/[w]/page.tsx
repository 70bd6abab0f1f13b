import { redirect } from 'next/navigation';

export default async function Page({ params }: { params: Promise<{ w: string }> }) {
  redirect(`/w/${encodeURIComponent((await params).w)}/rules`);
}
