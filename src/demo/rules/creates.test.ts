import { Decimal, type Value } from '@/core/values';
import { Desk } from '@/demo/testing/desk';

const gbp = (amount: number): Value => ({ amount: new Decimal(amount), currency: 'GBP' });

describe('a treatment of what is damaged', () => {
  const inspected = (values: Record<string, Value>) =>
    new Desk()
      .add('artefact', 'robe', { title: 'Robe' })
      .add('crate', 'box', { label: 'Box' })
      .add('inspection', 'look', {
        ...{ title: 'Look', artefact: 'robe', completed: true, completedOn: '2026-10-01', byPhoto: false },
        ...{ outcome: 'damage', finding: 'A crack', ...values },
      });

  test('is made with what was found, once', () => {
    const desk = inspected({});
    const [made] = desk.all('treatment') as [string];
    expect(
      ['title', 'artefact', 'inspection', 'finding', 'foundOn', 'state'].map((field) =>
        desk.at('treatment', made, field),
      ),
    ).toEqual(['Treat Robe', 'robe', 'look', 'A crack', '1 Oct 2026', 'Planned']);
    desk.change('inspection', 'look', { finding: 'Two cracks' });
    desk
      .change('inspection', 'look', { outcome: 'watch' })
      .change('inspection', 'look', { outcome: 'damage' });
    expect(desk.all('treatment')).toEqual([made]);
    expect(desk.at('treatment', made, 'finding')).toBe('A crack');
  });

  test.each<[string, Record<string, Value>]>([
    ['by photo only', { byPhoto: true }],
    ['that isn’t completed', { completed: false }],
    ['that found it sound', { outcome: 'sound' }],
    ['of a crate', { artefact: null, crate: 'box' }],
  ])('isn’t made by an inspection %s', (_, values) => {
    expect(inspected(values).all('treatment')).toEqual([]);
  });
});

describe('an insurance line of what is valuable', () => {
  const of = (objectKind: string, agreedValue = 45_000) =>
    new Desk()
      .add('artefact', 'piece', { title: 'Piece', maker: 'Anning', agreedValue: gbp(agreedValue) })
      .change('artefact', 'piece', { objectKind });

  test('of an instrument is there at once, each with the other’s number', () => {
    const desk = of('instrument');
    const [line] = desk.all('insuranceLine') as [string];
    expect(desk.at('insuranceLine', line, 'artefactNumber')).toBe(desk.at('artefact', 'piece', 'number'));
    expect(desk.at('artefact', 'piece', 'insuranceNumber')).toBe(desk.at('insuranceLine', line, 'number'));
    expect(desk.at('artefact', 'piece', 'insuranceLine')).toBe(line);
  });

  test('of a textile is proposed, of a work on paper told, of anything else nothing', () => {
    const textile = of('textile');
    expect([textile.all('insuranceLine'), textile.proposals.map(({ isDone }) => isDone)]).toEqual([
      [],
      [false],
    ]);
    const paper = of('workOnPaper');
    expect([paper.all('insuranceLine').length, paper.proposals.map(({ isDone }) => isDone)]).toEqual([
      1,
      [true],
    ]);
    const pot = of('ceramic');
    expect([pot.all('insuranceLine'), pot.proposals]).toEqual([[], []]);
    expect(of('instrument', 39_999).all('insuranceLine')).toEqual([]);
  });

  test('follows, and is followed; below the value it is marked as ended', () => {
    const desk = of('instrument');
    const [line] = desk.all('insuranceLine') as [string];
    expect(
      desk.change('artefact', 'piece', { agreedValue: gbp(50_000) }).at('insuranceLine', line, 'agreedValue'),
    ).toBe('50,000.00 GBP');
    expect(desk.change('insuranceLine', line, { maker: 'Brandt' }).at('artefact', 'piece', 'maker')).toBe(
      'Brandt',
    );
    expect(
      desk.change('artefact', 'piece', { agreedValue: gbp(10) }).at('insuranceLine', line, 'state'),
    ).toBe('Ended');
  });
});
