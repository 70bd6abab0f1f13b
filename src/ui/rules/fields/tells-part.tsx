import { toChoose, usePeople } from '@/ui/api/queries';
import { MenuPart } from '@/ui/expression/part';

export interface TellsPartProps {
  /** Id of the person in charge; `null` for nobody. */
  readonly tells: string | null;
  readonly onChange: (tells: string | null) => void;
}

const NOBODY = ' ';

/** Who is written to where something is proposed, or done and told. */
export function TellsPart({ tells, onChange }: TellsPartProps) {
  const { data } = usePeople();
  const people = data?.people ?? [];
  return (
    <>
      <MenuPart
        label="Who is written to"
        text={
          tells === null ? 'Nobody' : (people.find(({ id }) => id === tells)?.name ?? 'Somebody who left')
        }
        hint=""
        choices={[
          { key: NOBODY, name: 'Nobody', note: 'it stands in Today' },
          ...toChoose(people, tells).map(({ id, name, role }) => ({ key: id, name, note: role })),
        ]}
        onChoose={(key) => onChange(key === NOBODY ? null : key)}
      />{' '}
      is written to.{' '}
    </>
  );
}
