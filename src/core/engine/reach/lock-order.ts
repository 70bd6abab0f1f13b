import type { Model } from '@/core/model';
import { components } from '@/core/plan';
import { compareText, valueAt } from '@/core/values';
import type { Claim } from '@/core/engine/driver/need';

/** Types with parents before children (types that link in a circle by key): the one order in which runs lock. */
export function lockOrder(model: Model): ReadonlyMap<string, number> {
  let order = orders.get(model);
  if (!order) orders.set(model, (order = orderOf(model)));
  return order;
}

const orders = new WeakMap<Model, ReadonlyMap<string, number>>();

function orderOf(model: Model): ReadonlyMap<string, number> {
  const nodes = model.types.map((type) => type.key).sort(compareText);
  const edges = new Map(
    nodes.map((type) => [
      type,
      new Set(
        model
          .linksTo(type)
          .map((link) => link.type)
          .sort(compareText),
      ),
    ]),
  );
  const order = components({ nodes, edges }).flatMap((component) => component.sort(compareText));
  return new Map(order.map((type, position) => [type, position]));
}

/**
 * Claims brought together and in order. A type of which any record is claimed for writing is claimed for writing
 * throughout, so that one statement can lock it in the order of ids, and no lock is ever upgraded.
 */
export function inLockOrder(model: Model, claims: Iterable<Claim>): Claim[] {
  const order = lockOrder(model);
  const ids = new Map<string, Set<string>>();
  const written = new Set<string>();
  for (const { type, id, strength } of claims) {
    if (!ids.has(type)) ids.set(type, new Set());
    valueAt(ids, type).add(id);
    if (strength === 'write') written.add(type);
  }
  return [...ids.keys()]
    .sort((a, b) => valueAt(order, a) - valueAt(order, b))
    .flatMap((type) =>
      [...valueAt(ids, type)]
        .sort(compareText)
        .map((id): Claim => ({ type, id, strength: written.has(type) ? 'write' : 'read' })),
    );
}
