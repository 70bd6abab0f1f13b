import { fieldSeen, type Sight } from '@/core/model';
import type { ProblemCode } from '@/core/values';
import { Refusal, type RefusedPart } from '@/server/refusal';

/** What speaks of nothing but what was sent, of the records that were sent, and of who sent it. */
const OWN: ReadonlySet<ProblemCode> = new Set<ProblemCode>([
  ...(['edit.deleted', 'edit.exists', 'edit.field', 'edit.gone', 'edit.id', 'edit.person'] as const),
  ...(['edit.required', 'edit.serial', 'edit.twice', 'edit.type', 'edit.version'] as const),
  ...(['link.deleted', 'link.gone', 'value.character', 'value.kind', 'value.length'] as const),
  ...(['value.option', 'value.range', 'field.unknown', 'type.unknown', 'record.unknown'] as const),
  ...(['record.deleted', 'person.gone', 'save.before', 'save.busy', 'save.unknown', 'change.busy'] as const),
  ...(['key.form', 'key.reused', 'input.shape', 'input.character', 'query.unknown', 'busy'] as const),
  ...(['body.json', 'body.size', 'body.type', 'body.stalled', 'body.broken', 'body.text'] as const),
  ...(['list.condition', 'list.field', 'list.sort', 'list.after', 'export.field', 'export.format'] as const),
  ...(['sight.part', 'sight.record', 'right.missing', 'proposal.unknown', 'proposal.decided'] as const),
]);

/**
 * Why something can't be done, for somebody who sees a part of a workspace: what speaks of records, fields or rules that they may not see is told as
 * that alone.
 */
export function refusalSeen(refusal: Refusal, sight: Sight): Refusal {
  const { status, code, parts } = refusal;
  if (parts.length === 0 ? OWN.has(code) : parts.every((part) => OWN.has(part.code))) return refusal;
  const known = parts.flatMap((part) => partSeen(part, sight) ?? []);
  const [first] = known;
  if (first && known.length === parts.length) return new Refusal(status, first.code, first.message, known);
  return new Refusal(status, 'sight.refused', first ? `${first.message} ${UNSEEN}` : UNSEEN, known);
}

const UNSEEN =
  'It can’t be done because of something that you don’t see here. Nothing was saved; ask somebody who sees all of it.';

/** What is told of a part; `null` where that is nothing. */
function partSeen(part: RefusedPart, sight: Sight): RefusedPart | null {
  const { code, place, index, data = {} } = part;
  if (OWN.has(code)) return part;
  const where = { ...(place === undefined ? {} : { place }), ...(index === undefined ? {} : { index }) };
  // That a rule keeps a field, not which: its name may say of what.
  if (code === 'edit.kept')
    return { code, message: 'A rule keeps this field, so it isn’t entered. Leave it out.', ...where };
  // That a value is taken, not by which record.
  if (code !== 'value.taken' || fieldSeen(sight, String(data.type), place ?? '') === 'hidden') return null;
  const message = 'This value stands in another record already, and no two may have the same. Enter another.';
  return { code, message, ...where };
}
