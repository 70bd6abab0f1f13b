import { Refusal } from '@/server/refusal';
import { uniqueName } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

interface Clash {
  readonly code?: string;
  readonly constraint?: string;
  readonly detail?: string;
  readonly parent?: Clash;
}

/** What PostgreSQL says of a value that a unique field has already, in words; `null` for any other error. */
export function takenRefusal({ model }: LoadedWorkspace, error: unknown): Refusal | null {
  const clash = ((error as Clash).parent ?? error) as Clash;
  if (clash.code !== '23505' || clash.constraint === undefined) return null;
  for (const type of model.types) {
    for (const field of type.fields) {
      if (!field.unique || uniqueName(type.key, field.key) !== clash.constraint) continue;
      const value = /\)=\((.*)\) already exists/s.exec(clash.detail ?? '')?.[1];
      const message = `${field.name}: ${value === undefined ? 'this value' : `“${value}”`} stands in another ${type.name} already, and no two may have the same. Nothing was saved; enter another.`;
      const part = { code: 'value.taken', place: field.key, message, data: { type: type.key } } as const;
      return new Refusal(409, 'value.taken', message, [part]);
    }
  }
  return null;
}
