import { type First, firstAnswer, FirstAnswers } from '@/app/w/first-answers';
import type { ModelView } from '@/core/api';
import { readModel } from '@/core/model';
import { RecordPage } from '@/ui/records/record-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Record' };

interface Props {
  readonly params: Promise<{ w: string; type: string; id: string }>;
}

export default async function Page({ params }: Props) {
  const { w, type, id } = await params;
  const of: First[] = [
    { route: '/records/{type}/{id}', params: { type, id }, query: '?bin=true' },
    { route: '/records/{type}/{id}/followers', params: { type, id } },
    { route: '/records/{type}/{id}/history', params: { type, id } },
    ...(await childLists(w, type, id)),
  ];
  return (
    <>
      <FirstAnswers w={w} of={of} />
      <RecordPage type={type} id={id} />
    </>
  );
}

/** The lists of what hangs under the record, as its page asks for them. */
async function childLists(w: string, type: string, id: string): Promise<First[]> {
  const view = (await firstAnswer(w, { route: '/types' })) as ModelView | null;
  if (!view) return [];
  const model = readModel({ types: view.types }, view.settledDay);
  return model.types
    .flatMap(({ key }) => model.linksFrom(key))
    .filter(({ parent }) => parent === type)
    .map((link) => ({
      ...{ route: '/records/{type}', params: { type: link.type } },
      query: `?limit=100&filter.${link.link}=${id}`,
    }));
}
