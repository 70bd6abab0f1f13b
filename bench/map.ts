import type { Field, RecordType } from '@/core/model';
import { layOut } from '@/ui/model/map/map-layout';
import { type Figure, within } from './measure';

/** Types of which each but the first has one to three links to others before it, the same each time. */
function linkedTypes(number: number): RecordType[] {
  let state = 7;
  const below = (limit: number): number => {
    state = (state * 48_271) % 2_147_483_647;
    return state % limit;
  };
  return Array.from({ length: number }, (_, at): RecordType => {
    const links = Array.from({ length: at === 0 ? 0 : 1 + below(3) }, (__, link): Field => ({
      ...{ key: `link${link}`, name: `Link ${link}`, otherEnd: `Type ${at} by ${link}` },
      ...{ whenParentGoes: 'refuse', type: { kind: 'link', target: `type${below(at)}` } },
    }));
    const name: Field = { key: 'name', name: 'Name', type: { kind: 'text' } };
    return {
      key: `type${at}`,
      name: `Type ${at}`,
      plural: `Types ${at}`,
      title: 'name',
      fields: [name, ...links],
    };
  });
}

/** The map of a large model, against the time that it may take, in milliseconds. */
export const benchMap = async (): Promise<Figure[]> => {
  const types = linkedTypes(200);
  return [await within('a map of 200 types laid out', 2_000, () => layOut(types))];
};
