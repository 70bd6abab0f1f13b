import { ruleOf } from '@/core/testing/galleries';
import { inspections, LINE, takes, TREATMENT } from '@/core/testing/inspections';
import { compileCreate } from './check-create';
import type { Create } from './create';

const model = inspections();

function problemsOf(given: Partial<Create>, on: Create = TREATMENT): string[] {
  const compiled = compileCreate(model, ruleOf({ ...on, ...given }, 1));
  return compiled.ok ? [] : compiled.problems.map(({ place, code }) => `${place}: ${code}`);
}

test.each([
  ['a treatment for an inspection', TREATMENT],
  ['an insurance line, kept in step both ways', LINE],
])('%s is sound', (_, definition) => {
  const compiled = compileCreate(model, ruleOf(definition, 1));
  if (!compiled.ok) throw new Error(compiled.problems[0]!.message);
  expect(compiled.rule.assigned.map(({ target }) => target.key)).toEqual(
    definition.assignments.map(({ target }) => target),
  );
});

test.each<[string, Partial<Create>, string[]]>([
  ['a type that isn’t there', { type: 'painting' }, ['type: rule.type']],
  ['nothing that is made', { makes: 'painting' }, ['makes: rule.type']],
  ['a link that isn’t there', { back: 'state' }, ['links: create.link']],
  ['a link the other way that isn’t there', { forward: 'artefact' }, ['links: create.link']],
  [
    'a field twice',
    { assignments: [...TREATMENT.assignments, takes('cause', 'remark')] },
    ['assignments.3.target: cascade.twice'],
  ],
  [
    'a field that isn’t there',
    { assignments: [...TREATMENT.assignments, takes('reason', 'remark')] },
    ['assignments.3.target: rule.target'],
  ],
  [
    'the field of the link itself',
    { assignments: [...TREATMENT.assignments, takes('inspection', 'artefact')] },
    ['assignments.3.target: cascade.twice'],
  ],
  [
    'nothing for a field that must be entered',
    { assignments: TREATMENT.assignments.slice(1) },
    ['assignments: create.required'],
  ],
  ['a pace of another sort', { pace: 'soonAfter' }, ['pace: rule.pace']],
  ['never made', { making: 'not' }, ['making: create.way']],
  ['back, but not following', { returning: 'directly' }, ['returning: create.way']],
  [
    'at set times for every record, each time',
    { each: 'everyTime', condition: null, pace: { kind: 'timetable', every: 'day', at: '06:00' } },
    ['condition: create.endless'],
  ],
  ['unlinked without a link', { back: null, afterwards: 'unlinked' }, ['afterwards: create.afterwards']],
  [
    'by a field that isn’t a choice',
    { making: { field: 'remark', rows: [], otherwise: 'directly' } },
    ['making: create.way'],
  ],
])('refused: %s', (_, given, expected) => {
  expect(problemsOf(given)).toEqual(expected);
});

test('what goes back must be a field as it is', () => {
  const both = { following: 'directly', returning: 'directly' } as const;
  expect(problemsOf({ ...both, assignments: TREATMENT.assignments.slice(0, 1) })).toEqual([
    'returning: create.returning',
  ]);
  expect(problemsOf(both)).toEqual([]);
});
