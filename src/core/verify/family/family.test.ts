import { readModel } from '@/core/model';
import { rowOf, uuid } from '@/core/testing/galleries';
import { inspections } from '@/core/testing/inspections';
import { type FamilyData, familyByHand, familyStore, fittedFamily, recordToWire } from './family';

const model = inspections();
const [vase, line] = [uuid('1'), uuid('2')];

/** A family in which a rule made an insurance line for the one artefact, and of which all lines are here. */
function kept(): FamilyData {
  const family = familyByHand(model, 'artefact', vase, 'Vase');
  return {
    ...family,
    records: [
      ...family.records,
      recordToWire(model, rowOf(model, 'line', line, { title: 'Vase', artefact: vase })),
    ],
    made: [{ rule: uuid('9'), type: 'line', source: vase, made: line, isTakenBack: false }],
    whole: ['line', 'artefact'],
  };
}

it('a kept family stays as it is on the same model', () => {
  expect(fittedFamily(model, kept())).toEqual({ family: kept(), lost: 0 });
});

it('a type that is gone takes its records, what was made of it and its links with it', () => {
  const without = readModel({
    types: model.types
      .filter(({ key }) => key !== 'line')
      .map((type) => ({ ...type, fields: type.fields.filter(({ key }) => key !== 'line') })),
  });
  const { family, lost } = fittedFamily(without, kept());
  expect(lost).toBe(1);
  expect(family.made).toEqual([]);
  expect(family.whole).toEqual(['artefact']);
  expect(family.complete.map(({ type }) => type)).toEqual(['inspection', 'treatment']);
  expect(familyStore(without, family).row('artefact', vase)).toBeDefined();
});
