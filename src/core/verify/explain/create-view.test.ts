import type { CompiledCreate, Create } from '@/core/rules';
import { rowOf, uuid } from '@/core/testing/galleries';
import { inspections, LINE, TREATMENT } from '@/core/testing/inspections';
import { numbered, RuleDesk } from '@/core/testing/rule-desk';
import { Decimal } from '@/core/values';
import { createView, type CreateView } from '@/core/verify';

const model = inspections();
const [cope, robe, hoe, seen] = [uuid('1'), uuid('2'), uuid('3'), uuid('11')];

const ROWS = [
  rowOf(model, 'artefact', cope, {
    ...{ title: 'Cope', sort: 'painting', maker: 'Anning' },
    ...{ worth: new Decimal(10), number: new Decimal(7) },
  }),
  rowOf(model, 'artefact', robe, { title: 'Robe', sort: 'textile' }),
  rowOf(model, 'artefact', hoe, { title: 'Hoe', sort: 'tool' }),
  rowOf(model, 'inspection', seen, { artefact: cope, outcome: 'damage', byPhoto: false, remark: 'Cracked' }),
];

class Desk extends RuleDesk {
  readonly rule: CompiledCreate;

  constructor(create: Create) {
    super(model, numbered([create]), ROWS);
    this.rule = this.plan.turns[0] as CompiledCreate;
  }

  /** Makes one for a record, as a person who asks for it. */
  make(id: string): this {
    this.run([], { isEveryPace: true, asked: new Map([[this.rule.id, [id]]]) });
    expect(this.refused).toBe('');
    return this;
  }

  view(type: string, id: string): CreateView {
    const { store, plan } = this;
    return createView({ model, plan, store, names: {} }, this.rule, store.row(type, id)!);
  }
}

const told = ({ fields }: CreateView) =>
  fields.map(({ fieldName, value, from }) => [fieldName, value.text, from]);

it('shows what would be made, field by field, and where each comes from', () => {
  const view = new Desk(TREATMENT).view('inspection', seen);
  expect([view.meets, view.way, view.typeName, view.made]).toEqual([true, 'directly', 'Treatment', []]);
  expect(told(view)).toEqual([
    ['Title', 'Treat Cope', 'assigned'],
    ['Artefact', 'Cope', 'assigned'],
    ['Inspection', 'inspection 011', 'link'],
    ['Cause', 'Cracked', 'assigned'],
    ['State', 'Planned', 'default'],
    ['Number', 'N-001', 'number'],
  ]);
});

it('says what the record fails where it does not meet the condition', () => {
  const { meets, reasons } = new Desk(LINE).view('artefact', hoe);
  expect(meets).toBe(false);
  expect(reasons).toEqual([{ test: 'Sort is among Painting, Textile, Paper', found: 'Tool' }]);
});

it('shows what would be proposed as what would be made', () => {
  const view = new Desk(LINE).view('artefact', robe);
  expect(view.way).toBe('proposal');
  expect(told(view).slice(0, 1)).toEqual([['Title', 'Robe', 'assigned']]);
});

it('tells what the record is linked to, but not that it would lose what it has where one was made', () => {
  const desk = new Desk(LINE);
  const changed = ({ ripple }: CreateView) =>
    ripple!.waves.flatMap(({ changes }) => changes.map(({ fieldName }) => fieldName));
  expect(changed(desk.view('artefact', cope))).toEqual(['Insurance line', 'Line number']);
  const again = desk.make(cope).view('artefact', cope);
  expect(again.made).toEqual(['Cope']);
  expect(changed(again)).toEqual([]);
});
