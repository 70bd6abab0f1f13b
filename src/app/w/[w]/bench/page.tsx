import type { ModelView, RecordList } from '@/core/api';
import { type First, firstAnswer, FirstAnswers, firsts } from '@/app/w/first-answers';
import { BenchPage } from '@/ui/bench/bench-page';
import { typeOnBench } from '@/ui/bench/type-on-bench';
import type { Metadata } from 'next';
import { Suspense } from 'react';

export const metadata: Metadata = { title: 'Bench' };

interface Props {
  readonly params: Promise<{ w: string }>;
  readonly searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>>;
}

export default async function Page({ params, searchParams }: Props) {
  const { w } = await params;
  return (
    <>
      <FirstAnswers
        w={w}
        of={[...firsts('/rules', '/sample-families'), ...(await family(w, await searchParams))]}
      />
      <Suspense>
        <BenchPage />
      </Suspense>
    </>
  );
}

/** The family that the bench begins with, and the record at its top, as its page asks for them. */
async function family(
  w: string,
  { type: asked, id, kept, proof }: Awaited<Props['searchParams']>,
): Promise<First[]> {
  const view = (await firstAnswer(w, { route: '/types' })) as ModelView | null;
  const type = view && typeOnBench(view, typeof asked === 'string' ? asked : null);
  if (!type || kept !== undefined || proof !== undefined) return [];
  const first: First = { route: '/records/{type}', params: { type }, query: '?limit=1' };
  const known =
    typeof id === 'string'
      ? id
      : (((await firstAnswer(w, first)) as RecordList | null)?.records[0]?.id ?? null);
  return [
    first,
    ...(known ? [{ route: '/families/{type}/{id}', params: { type, id: known } } as const] : []),
  ];
}
