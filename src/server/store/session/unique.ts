import type { Model } from '@/core/model';
import { Refusal } from '@/server/refusal';
import { openLinkName, uniqueName } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

interface Clash {
  readonly code?: string;
  readonly constraint?: string;
  readonly detail?: string;
  readonly parent?: Clash;
}

/** What PostgreSQL says of a value that a unique field has already, or of an open link, in words; `null` for any other error. */
export function takenRefusal({ model }: LoadedWorkspace, error: unknown): Refusal | null {
  const clash = ((error as Clash).parent ?? error) as Clash;
  if (clash.code === '23514') return severalRefusal(model, clash);
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

/** Rules that would fill more than one link of an open link, or empty the one that is required. */
function severalRefusal(model: Model, { constraint }: Clash): Refusal | null {
  for (const type of model.types)
    for (const open of type.openLinks ?? []) {
      if (openLinkName(type.key, open.key) !== constraint) continue;
      const message = `${open.name} of a ${type.name} would name several records by what rules write, or none although it is required. Nothing was saved; look at the rules that fill its links.`;
      const part = { code: 'link.several', place: open.key, message, data: { type: type.key } } as const;
      return new Refusal(409, 'link.several', message, [part]);
    }
  return null;
}
