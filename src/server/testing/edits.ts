import type { WireEdit } from '@/core/engine';

export const edit = (type: string, id: string, values: Record<string, unknown>): WireEdit => ({
  kind: 'edit',
  type,
  id,
  values,
});
