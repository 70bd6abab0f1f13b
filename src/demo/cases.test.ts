import { parseValue } from '@/core/values';
import type { Row } from '@/core/engine';
import { fieldIn, readModel, typeIn } from '@/core/model';
import { WRENFIELD } from './model';
import { DAY, demoRules } from './proofs';
import { generateFamily, type GeneratedFamily } from '@/core/verify/strength/generate-family';
import { inputDomainOf } from '@/core/verify/strength/input-domain';
import { shrinkCase } from '@/core/verify/strength/shrink-case';

// Over all rules of the demo: one of each kind, over bridges, hierarchies, currencies and dates.
const model = readModel(WRENFIELD, DAY);
const rules = demoRules();
const NUMBERS = [0, 1, 7, 60, 121, 400];

/** What of a row names a record that isn't in the family. */
const danglingIn = (rows: readonly Row[]): string[] => {
  const there = new Set(rows.map(({ type, id }) => `${type} ${id}`));
  return rows.flatMap(({ type, values }) =>
    typeIn(model, type).fields.flatMap(({ key, type: of }) => {
      const named = values[key] ?? null;
      return of.kind === 'link' && named !== null && !there.has(`${of.target} ${String(named)}`)
        ? [`${type}.${key}`]
        : [];
    }),
  );
};

describe.each(rules.map((rule) => [rule.name, rule] as const))('%s', (_, rule) => {
  const domain = inputDomainOf(model, rules, rule);

  test('hangs on its own type first, and on fields that are there', () => {
    expect(domain.types[0]).toBe(rule.definition.type);
    expect(domain.rules.map(({ id }) => id)).toContain(rule.id);
    for (const { type, field, values } of domain.fields) {
      expect(domain.types).toContain(type);
      const of = fieldIn(model, type, field);
      for (const value of values)
        expect([type, field, value, parseValue(of.type, value).ok]).toEqual([type, field, value, true]);
    }
    for (const { type, link } of domain.links) expect(fieldIn(model, type, link).type.kind).toBe('link');
  });

  test.each(NUMBERS)('family %s is whole, and the same each time', (number) => {
    const family = generateFamily(model, domain, number);
    expect(generateFamily(model, domain, number)).toEqual(family);
    expect(family.rows.length).toBeGreaterThan(0);
    expect(family.rows[0]!.type).toBe(rule.definition.type);
    expect(danglingIn(family.rows)).toEqual([]);
    expect(new Set(family.rows.map(({ id }) => id)).size).toBe(family.rows.length);
  });

  test('shrunk, it remains what it is wanted for, whole, and no larger', () => {
    const family = generateFamily(model, domain, 60);
    const own = (one: GeneratedFamily) => one.rows.filter(({ type }) => type === rule.definition.type).length;
    const least = shrinkCase(model, family, (one) => own(one) >= 1);
    expect(own(least)).toBeGreaterThanOrEqual(1);
    expect(least.rows.length).toBeLessThanOrEqual(family.rows.length);
    expect(least.runs.flat().length).toBeLessThanOrEqual(family.runs.flat().length);
    expect(danglingIn(least.rows)).toEqual([]);
  });
});

test('a case that nothing can be left out of stays as it is', () => {
  const domain = inputDomainOf(model, rules, rules[0]!);
  const family = generateFamily(model, domain, 1);
  expect(shrinkCase(model, family, () => false)).toEqual(family);
});
