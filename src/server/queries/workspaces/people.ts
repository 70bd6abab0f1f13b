import type { MemberView, PeopleAnswer, PersonView, TwoPeopleKind } from '@/core/api';
import { grouped } from '@/core/grouped';
import { type RoleAccess, sightOf } from '@/core/model';
import { QueryTypes } from 'sequelize';
import { database } from '@/server/database/connection';
import { models, type Person } from '@/server/database/models';
import { Refusal } from '@/server/refusal';
import { rightsOf, rolesOf } from '@/server/sign-in/roles';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { isUuid } from '@/server/uuid';

export const personView = ({ id, name, role, form }: Person): PersonView => ({ id, name, role, form });

/** A role that somebody has in a workspace: their own, or a group's. */
interface MemberRole {
  readonly person: string;
  readonly role: string;
  readonly group: string | null;
  /** What the role sees less than all; `null`: all. */
  readonly access: RoleAccess | null;
}

type Row = PersonView & Pick<MemberView, 'isService' | 'isAwaited' | 'hasSecond'>;

/** Everybody who takes part in a workspace, or did, with all that they may; and the roles that there are. */
export async function listPeople({ id: workspace }: LoadedWorkspace): Promise<PeopleAnswer> {
  const bind = [workspace];
  const [found, roles, had, [wanting]] = await Promise.all([
    database().query<Row>(
      `SELECT p.id::text, p.name, p.role, p.form, p.is_service AS "isService", p.password IS NULL AND NOT EXISTS (SELECT FROM passkey k WHERE k.person = p.id) AND NOT EXISTS (SELECT FROM provider_account a WHERE a.person = p.id) AS "isAwaited",
          EXISTS (SELECT FROM second_factor f WHERE f.person = p.id AND f.confirmed IS NOT NULL) AS "hasSecond" FROM person p JOIN membership m ON m.person_id = p.id WHERE m.workspace_id = $1 ORDER BY p.id`,
      { bind, type: QueryTypes.SELECT },
    ),
    rolesOf(workspace),
    database().query<MemberRole>(
      `SELECT r.person_id::text AS person, r.role, g.name AS group, a.access FROM member_role r LEFT JOIN role_access a ON a.workspace_id = r.workspace_id AND a.role = r.role LEFT JOIN people_group g ON g.id = r.group_id
        WHERE r.workspace_id = $1 ORDER BY lower(g.name)`,
      { bind, type: QueryTypes.SELECT },
    ),
    database().query<{ wantSecond: string[]; twoPeople: TwoPeopleKind[]; partial: string[] }>(
      'SELECT second_factor AS "wantSecond", two_people AS "twoPeople", ARRAY(SELECT a.role FROM role_access a WHERE a.workspace_id = workspace.id) AS partial FROM workspace WHERE id = $1',
      {
        bind,
        type: QueryTypes.SELECT,
      },
    ),
  ]);
  const byPerson = grouped(had, ({ person }) => person);
  const views = found.map((person): MemberView => {
    const own = byPerson.get(person.id) ?? [];
    const keys = new Set(own.map(({ role }) => role));
    return {
      ...person,
      // Who has left is called so, as the workspace does.
      name: own.length > 0 ? person.name : `${person.name} (no longer here)`,
      access: own.find(({ group }) => group === null)?.role ?? null,
      groups: own.flatMap(({ group, role }) => (group === null ? [] : [{ group, access: role }])),
      seesPart:
        sightOf(
          own.map((one) => one.access),
          person.id,
        ) !== null,
      rights: rightsOf(roles.filter(({ key }) => keys.has(key))),
    };
  });
  const wantSecond = roles.map(({ key }) => key).filter((key) => wanting?.wantSecond.includes(key));
  return {
    people: views,
    roles,
    wantSecond,
    partial: wanting?.partial ?? [],
    twoPeople: wanting?.twoPeople ?? [],
  };
}

/** Everybody of the installation. */
export async function everybody(): Promise<PersonView[]> {
  const found = await models().Person.findAll({
    where: { isService: false },
    order: [['id', 'ASC']],
  });
  return found.map(personView);
}

/** Refuses who isn’t a person of the workspace. */
export function checkPerson({ people }: Pick<LoadedWorkspace, 'people'>, person: string): void {
  if (!people.has(person)) throw unknownPerson();
}

/** Refuses who isn't a person of the installation. */
export async function checkSomebody(person: string): Promise<void> {
  if (isUuid(person) && (await models().Person.findByPk(person))) return;
  throw new Refusal(
    401,
    'person.unknown',
    'Say who acts: send the id of a person of this installation in the header Oikon-Person.',
  );
}

export const unknownPerson = (): Refusal =>
  new Refusal(
    401,
    'person.unknown',
    'Say who acts: send the id of a person of this workspace in the header Oikon-Person.',
  );
