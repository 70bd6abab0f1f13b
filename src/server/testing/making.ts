import type { Edit, Row, WireEdit } from '@/core/engine';
import { fieldIn } from '@/core/model';
import { MAKING_MODEL, type MakingDesk } from '@/core/testing/any-making';
import { toWire } from '@/core/values';

/** In PostgreSQL what was made has other ids than in memory. */
export function wireOf(edit: Edit, there: readonly Row[], desk: MakingDesk): WireEdit {
  const { kind, type } = edit;
  const isLine = type === 'line';
  const artefact = isLine ? desk.row('line', edit.id).values.artefact : null;
  const id = isLine
    ? there.find((row) => row.type === 'line' && row.values.artefact === artefact)!.id
    : edit.id;
  if (!('values' in edit)) return { kind, type, id };
  const wire = Object.entries(edit.values).map(([field, value]) => [
    field,
    toWire(fieldIn(MAKING_MODEL, type, field).type, value),
  ]);
  return { kind, type, id, values: Object.fromEntries(wire) as Record<string, unknown> };
}
