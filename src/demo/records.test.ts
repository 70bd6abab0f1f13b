import { readEdits } from '@/core/engine';
import { checkModel, readModel } from '@/core/model';
import { buildPlan } from '@/core/plan';
import { recordToWire } from '@/core/verify';
import { WRENFIELD } from './model';
import { demoData } from './records';
import { RULES } from './rules/rules';

const model = readModel(WRENFIELD, '2026-10-30');

test('the demo’s model has no problems, and its rules fit it and each other', () => {
  expect(checkModel(WRENFIELD)).toEqual([]);
  const rules = RULES.map(({ definition }, index) => ({
    id: String(index),
    version: '',
    name: `Rule ${index}`,
    definition,
  }));
  expect(buildPlan(model, rules).problems).toEqual([]);
});

test('the demo has the size it promises and is the same every time', () => {
  const data = demoData();
  const count = (type: string) => data.rows.filter((row) => row.type === type).length;
  expect(count('exhibition')).toBe(6);
  expect(count('loan')).toBeGreaterThanOrEqual(36);
  expect(count('artefact')).toBeGreaterThanOrEqual(200);
  expect(demoData()).toEqual(data);
  expect(demoData(2)).not.toEqual(data);
});

test('every record of the demo would be accepted from a person', () => {
  const { rows, people } = demoData();
  const edits = rows.map((row) => ({
    kind: 'create' as const,
    type: row.type,
    id: row.id,
    values: recordToWire(model, row).values,
  }));
  const read = readEdits({
    model,
    plan: buildPlan(model, []).plan,
    edits,
    people: new Set(people.map(({ id }) => id)),
    newId: () => '',
  });
  expect(read).toMatchObject({ ok: true });
});

test('titles are told apart: no two loans or institutions share one', () => {
  const { rows } = demoData();
  for (const type of ['institution', 'exhibition', 'loan']) {
    const titles = rows.filter((row) => row.type === type).map((row) => row.values.title ?? row.values.name);
    expect(new Set(titles).size).toBe(titles.length);
  }
});
