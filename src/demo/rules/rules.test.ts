import { Decimal, type Value } from '@/core/values';
import { Desk } from '@/demo/testing/desk';

const gbp = (amount: string): Value => ({ amount: new Decimal(amount), currency: 'GBP' });
const grade = (digits: number): Value => new Decimal(digits);

describe('the handling grade of an artefact', () => {
  const report = (desk: Desk, id: string, of: number) =>
    desk.add('handlingReport', id, { title: id, artefact: 'robe', grade: grade(of) });

  test('reports of 2, 3 and 3 average 2.667: grade 3; another of 2 makes it 2.5: grade 3, halves away from zero', () => {
    const desk = new Desk().add('artefact', 'robe', { title: 'Robe' });
    expect(desk.at('artefact', 'robe', 'handlingGrade')).toBe('empty');
    report(report(report(desk, 'a', 2), 'b', 3), 'c', 3);
    expect(desk.at('artefact', 'robe', 'handlingGrade')).toBe('3');
    expect(report(desk, 'd', 2).at('artefact', 'robe', 'handlingGrade')).toBe('3');
    expect(report(desk, 'e', 2).at('artefact', 'robe', 'handlingGrade')).toBe('2');
  });

  test('without a report it is empty again', () => {
    const desk = report(new Desk().add('artefact', 'robe', { title: 'Robe' }), 'a', 4);
    expect(desk.remove('handlingReport', 'a').at('artefact', 'robe', 'handlingGrade')).toBe('empty');
  });
});

describe('how a piece is handled, from its reports', () => {
  const report = (desk: Desk, id: string, of: number) =>
    desk.add('handlingReport', id, { title: id, artefact: 'robe', grade: grade(of) });
  const handling = (desk: Desk) => desk.at('artefact', 'robe', 'handling');

  test('3 and 5 average 4: with care; another 2 makes it 3.333: by two; without reports nothing is said', () => {
    const desk = new Desk().add('artefact', 'robe', { title: 'Robe' });
    expect(handling(desk)).toBe('empty');
    expect(handling(report(report(desk, 'a', 3), 'b', 5))).toBe('With care');
    expect(handling(report(desk, 'c', 2))).toBe('By two');
    expect(handling(desk.remove('handlingReport', 'a').remove('handlingReport', 'b'))).toBe('As usual');
    expect(handling(desk.remove('handlingReport', 'c'))).toBe('empty');
  });

  test('on the limit the row that names it holds: 2 and 3 average 2.5', () => {
    const desk = new Desk().add('artefact', 'robe', { title: 'Robe' });
    expect(handling(report(report(desk, 'a', 2), 'b', 3))).toBe('By two');
  });
});

describe('rules that wait', () => {
  const desk = () =>
    new Desk()
      .add('institution', 'kestrel', { name: 'Kestrel' })
      .add('exhibition', 'silk', { title: 'Silk' })
      .add('loan', 'first', { title: 'First', exhibition: 'silk', lender: 'kestrel', fee: gbp('420.00') })
      .add('artefact', 'robe', { title: 'Robe', loan: 'first', maker: 'Ives' })
      .add('artefact', 'sash', { title: 'Sash', loan: 'first', maker: 'Alder' });

  test('the makers follow soon after, the pieces lent when Monday comes', () => {
    const at = desk();
    expect(at.at('exhibition', 'silk', 'makers')).toBe('empty');
    expect(at.at('institution', 'kestrel', 'piecesLent')).toBe('empty');
    at.settle();
    expect(at.at('exhibition', 'silk', 'makers')).toBe('Alder, Ives');
    expect(at.at('institution', 'kestrel', 'piecesLent')).toBe('2');
    at.remove('artefact', 'sash');
    expect(at.at('institution', 'kestrel', 'piecesLent')).toBe('2');
    expect(at.settle().at('institution', 'kestrel', 'piecesLent')).toBe('1');
  });

  test('the fees are quoted when that is asked for, 420.00 as at least 500.00, and don’t move until it is again', () => {
    const at = desk();
    const quoted = () => at.at('exhibition', 'silk', 'quotedFees');
    expect(quoted()).toBe('empty');
    at.change('exhibition', 'silk', { quote: true });
    expect(quoted()).toBe('500.00 GBP');
    at.change('loan', 'first', { fee: gbp('610.50') });
    expect(quoted()).toBe('500.00 GBP');
    at.change('exhibition', 'silk', { quote: false }).change('exhibition', 'silk', { quote: true });
    expect(quoted()).toBe('610.50 GBP');
  });
});

describe('the stage of an exhibition, moved by its loans', () => {
  const desk = () =>
    new Desk()
      .add('exhibition', 'silk', { title: 'Silk', stage: 'proposed' })
      .add('loan', 'first', { title: 'First', exhibition: 'silk', stage: 'requested' })
      .add('loan', 'second', { title: 'Second', exhibition: 'silk', stage: 'declined' });
  const stage = (at: Desk) => at.at('exhibition', 'silk', 'stage');

  test('when every loan is agreed or declined it is confirmed; when one goes back to requested, proposed', () => {
    const at = desk();
    expect(stage(at)).toBe('Proposed');
    expect(stage(at.change('loan', 'first', { stage: 'agreed' }))).toBe('Confirmed');
    expect(stage(at.change('loan', 'second', { stage: 'requested' }))).toBe('Proposed');
    expect(stage(at.remove('loan', 'second'))).toBe('Confirmed');
  });

  test('once a person has set it to installing it is left alone', () => {
    const at = desk().change('loan', 'first', { stage: 'agreed' });
    at.change('exhibition', 'silk', { stage: 'installing' });
    expect(stage(at.change('loan', 'first', { stage: 'requested' }))).toBe('Installing');
  });

  test('what a person sets stands until the loans say something else', () => {
    const at = desk().change('exhibition', 'silk', { stage: 'confirmed' });
    expect(stage(at.change('loan', 'second', { stage: 'requested' }))).toBe('Confirmed');
    at.change('loan', 'second', { stage: 'agreed' }).change('loan', 'first', { stage: 'agreed' });
    expect(stage(at.change('loan', 'first', { stage: 'requested' }))).toBe('Proposed');
  });

  test('without loans it is left as it is', () => {
    const at = desk().change('loan', 'first', { stage: 'agreed' });
    expect(stage(at.remove('loan', 'first').remove('loan', 'second'))).toBe('Confirmed');
  });
});

/** An outer crate with two pieces, and an empty one in it. */
const crates = () =>
  new Desk()
    .add('shipment', 'outward', { leg: 'Outward' })
    .add('crate', 'outer', { label: 'Outer', shipment: 'outward', ownCover: gbp('1850.00'), sealed: true })
    .add('artefact', 'robe', { title: 'Robe', crate: 'outer', agreedValue: gbp('12250.00'), packed: true })
    .add('artefact', 'cap', { title: 'Cap', crate: 'outer', agreedValue: gbp('900.50'), packed: true })
    .add('crate', 'inner', {
      ...{ label: 'Inner', shipment: 'outward', inside: 'outer', ownCover: gbp('200.00'), sealed: true },
    });

describe('the cover of a crate', () => {
  test('1,850.00 of its own, 12,250.00 and 900.50 in it, and 200.00 of the crate inside: 15,200.50', () => {
    expect(crates().at('crate', 'outer', 'cover')).toBe('15,200.50 GBP');
    expect(crates().at('crate', 'inner', 'cover')).toBe('200.00 GBP');
  });

  test('a declared cover of 16,000.00 stands in, also for what comes in later, until it is emptied', () => {
    const desk = crates().change('crate', 'outer', { declaredCover: gbp('16000.00') });
    expect(desk.at('crate', 'outer', 'cover')).toBe('16,000.00 GBP');
    desk.add('artefact', 'sash', { title: 'Sash', crate: 'inner', agreedValue: gbp('100.00') });
    expect(desk.at('crate', 'outer', 'cover')).toBe('16,000.00 GBP');
    expect(desk.at('shipment', 'outward', 'cover')).toBe('16,000.00 GBP');
    desk.change('crate', 'outer', { declaredCover: null });
    expect(desk.at('crate', 'outer', 'cover')).toBe('15,300.50 GBP');
  });

  test('a crate that moves with all that is in it is right above both its old and its new place', () => {
    const desk = crates()
      .add('crate', 'other', { label: 'Other', shipment: 'outward', ownCover: gbp('10.00') })
      .add('crate', 'top', { label: 'Top', ownCover: gbp('1.00') })
      .change('crate', 'other', { inside: 'top' });
    desk.add('artefact', 'sash', { title: 'Sash', crate: 'inner', agreedValue: gbp('100.00') });
    expect(desk.at('crate', 'outer', 'cover')).toBe('15,300.50 GBP');
    desk.change('crate', 'inner', { inside: 'other' });
    expect(desk.at('crate', 'outer', 'cover')).toBe('15,000.50 GBP');
    expect(desk.at('crate', 'other', 'cover')).toBe('310.00 GBP');
    expect(desk.at('crate', 'top', 'cover')).toBe('311.00 GBP');
  });

  test('a shipment covers its outermost crates, since these cover what lies in them', () => {
    expect(crates().at('shipment', 'outward', 'cover')).toBe('15,200.50 GBP');
  });
});

test('a crate is all sealed while everything in it is; a piece in an inner crate that isn’t packed opens both', () => {
  const desk = crates();
  expect(desk.at('crate', 'outer', 'allSealed')).toBe('yes');
  desk.add('artefact', 'sash', { title: 'Sash', crate: 'inner', packed: false });
  expect([desk.at('crate', 'inner', 'allSealed'), desk.at('crate', 'outer', 'allSealed')]).toEqual([
    'no',
    'no',
  ]);
  desk.remove('artefact', 'sash');
  expect([desk.at('crate', 'inner', 'allSealed'), desk.at('crate', 'outer', 'allSealed')]).toEqual([
    'yes',
    'yes',
  ]);
});

describe('an artefact needs a permit', () => {
  const robe = () => {
    const desk = new Desk()
      .add('exhibition', 'silk', { title: 'Silk' })
      .add('loan', 'robes', { title: 'Robes', exhibition: 'silk' })
      .add('artefact', 'robe', { title: 'Robe', loan: 'robes' });
    for (const [id, isProtected] of [
      ['silk', false],
      ['gold', false],
      ['ivory', true],
    ] as const)
      desk
        .add('material', id, { name: id, protected: isProtected })
        .add('materialUse', `use ${id}`, { title: id, artefact: 'robe', material: id });
    return desk;
  };

  test('where one of its three materials is protected', () => {
    expect(robe().at('artefact', 'robe', 'needsPermit')).toBe('yes');
    expect(robe().at('exhibition', 'silk', 'artefactsToPermit')).toBe('1');
  });

  test('and no longer when that use is deleted, or that material isn’t protected any more', () => {
    const without = robe().remove('materialUse', 'use ivory');
    expect(without.at('artefact', 'robe', 'needsPermit')).toBe('no');
    expect(without.at('exhibition', 'silk', 'artefactsToPermit')).toBe('0');
    const freed = robe().change('material', 'ivory', { protected: false });
    expect(freed.at('artefact', 'robe', 'needsPermit')).toBe('no');
    expect(freed.change('material', 'gold', { protected: true }).at('artefact', 'robe', 'needsPermit')).toBe(
      'yes',
    );
  });
});

test('an institution’s lent total has its own agreed loans and those of its departments, at any depth', () => {
  const desk = new Desk()
    .add('exhibition', 'silk', { title: 'Silk', stage: 'confirmed' })
    .add('institution', 'trust', { name: 'Trust' })
    .add('institution', 'textiles', { name: 'Textiles', partOf: 'trust' })
    .add('institution', 'annex', { name: 'Annex', partOf: 'textiles' });
  const loan = (id: string, lender: string, stage: string, value: string) =>
    desk.add('loan', id, {
      ...{ title: id, exhibition: 'silk', lender, stage, insuredValue: gbp(value) },
    });
  loan('a', 'trust', 'agreed', '100.00');
  loan('b', 'textiles', 'agreed', '2000.00');
  loan('c', 'annex', 'declined', '40000.00');
  loan('d', 'annex', 'agreed', '300000.00');
  expect(desk.at('institution', 'trust', 'lentTotal')).toBe('302,100.00 GBP');
  desk.change('loan', 'c', { stage: 'agreed' });
  expect(desk.at('institution', 'textiles', 'lentTotal')).toBe('342,000.00 GBP');
  expect(desk.at('institution', 'trust', 'lentTotal')).toBe('342,100.00 GBP');
  desk.change('institution', 'annex', { partOf: null });
  expect(desk.at('institution', 'trust', 'lentTotal')).toBe('2,100.00 GBP');
});

describe('what is lent in euros counts at the rate of the day', () => {
  const rate = (desk: Desk, id: string, day: string, digits: string) =>
    desk.add('rate', id, { title: id, pair: 'EUR/GBP', day, rate: new Decimal(digits) });
  /** The settled day is 30 October 2026. */
  const desk = () =>
    new Desk()
      .add('exhibition', 'silk', { title: 'Silk', stage: 'confirmed' })
      .add('institution', 'trust', { name: 'Trust' })
      .add('institution', 'textiles', { name: 'Textiles', partOf: 'trust' })
      .add('institution', 'prints', { name: 'Prints', partOf: 'trust' });
  const loan = (at: Desk, id: string, lender: string, stage: string, insuredValue: Value) =>
    at.add('loan', id, { title: id, exhibition: 'silk', lender, stage, insuredValue });
  const eur = (amount: string): Value => ({ amount: new Decimal(amount), currency: 'EUR' });
  const lent = (at: Desk, id: string) => at.at('institution', id, 'lentTotal');

  test('1,000.00 of its own, 2,000.00 EUR and 500.00 of its departments, at 0.8550: 3,210.00', () => {
    const at = rate(desk(), 'thirtieth', '2026-10-30', '0.8550');
    loan(at, 'a', 'trust', 'agreed', gbp('1000.00'));
    loan(at, 'b', 'textiles', 'agreed', eur('2000.00'));
    loan(at, 'c', 'prints', 'agreed', gbp('500.00'));
    loan(at, 'd', 'prints', 'declined', eur('9999.99'));
    expect(lent(at, 'textiles')).toBe('1,710.00 GBP');
    expect(lent(at, 'trust')).toBe('3,210.00 GBP');
  });

  test('without a rate it is a problem of those that need it, which clears itself once there is one', () => {
    const at = rate(desk(), 'too old', '2026-10-22', '0.9000');
    loan(at, 'a', 'trust', 'agreed', gbp('1000.00'));
    loan(at, 'b', 'textiles', 'agreed', eur('2000.00'));
    loan(at, 'c', 'prints', 'agreed', gbp('500.00'));
    expect(lent(at, 'textiles')).toBe('input_has_problem');
    expect(lent(at, 'trust')).toBe('input_has_problem');
    expect(lent(at, 'prints')).toBe('500.00 GBP');
    rate(at, 'Friday before', '2026-10-23', '0.8600');
    expect(lent(at, 'trust')).toBe('3,220.00 GBP');
    rate(at, 'today', '2026-10-30', '0.8550');
    expect(lent(at, 'trust')).toBe('3,210.00 GBP');
    at.change('rate', 'today', { rate: new Decimal('0.8000') });
    expect(lent(at, 'trust')).toBe('3,100.00 GBP');
    at.remove('rate', 'today').remove('rate', 'Friday before');
    expect(lent(at, 'trust')).toBe('input_has_problem');
    at.change('loan', 'b', { insuredValue: gbp('1.00') });
    expect(lent(at, 'trust')).toBe('1,501.00 GBP');
  });
});

describe('last inspected on and by, in person', () => {
  const inspected = () => {
    const desk = new Desk()
      .add('shipment', 'outward', { leg: 'Outward' })
      .add('crate', 'crate', { label: 'Crate', shipment: 'outward' })
      .add('artefact', 'robe', { title: 'Robe', crate: 'crate' });
    inspect(desk, 'first', '2026-03-01', 'priya', false);
    inspect(desk, 'second', '2026-05-10', 'jonas', false);
    return inspect(desk, 'photo', '2026-06-20', 'elsie', true);
  };
  const inspect = (desk: Desk, id: string, completedOn: string, inspector: string, byPhoto: boolean) =>
    desk.add('inspection', id, {
      title: id,
      artefact: 'robe',
      completed: true,
      completedOn,
      inspector,
      byPhoto,
    });
  const last = (desk: Desk) =>
    [
      ['artefact', 'robe'],
      ['crate', 'crate'],
      ['shipment', 'outward'],
    ].map(([type, id]) => `${desk.at(type!, id!, 'inspectedOn')} by ${desk.at(type!, id!, 'inspectedBy')}`);
  const everywhere = (words: string) => [words, words, words];

  test('the later of two in person; the one by photograph only doesn’t count', () => {
    expect(last(inspected())).toEqual(everywhere('10 May 2026 by jonas'));
  });

  test('that one deleted, it is the earlier; one of an earlier day that is entered late changes nothing', () => {
    const desk = inspected().remove('inspection', 'second');
    expect(last(desk)).toEqual(everywhere('1 Mar 2026 by priya'));
    expect(last(inspect(desk, 'late', '2026-02-01', 'elsie', false))).toEqual(
      everywhere('1 Mar 2026 by priya'),
    );
  });
});

test('an exhibition’s lenders, each once, in the order of their names', () => {
  const desk = new Desk().add('exhibition', 'silk', { title: 'Silk' });
  for (const name of ['Orrery House', 'Kestrel Museum']) desk.add('institution', name, { name });
  const loan = (id: string, lender: string, stage: string) =>
    desk.add('loan', id, { title: id, exhibition: 'silk', lender, stage });
  loan('a', 'Orrery House', 'agreed');
  loan('b', 'Kestrel Museum', 'agreed');
  loan('c', 'Orrery House', 'agreed');
  expect(desk.at('exhibition', 'silk', 'lenders')).toBe('Kestrel Museum, Orrery House');
  desk.change('institution', 'Kestrel Museum', { name: 'Windhover Museum' });
  expect(desk.at('exhibition', 'silk', 'lenders')).toBe('Orrery House, Windhover Museum');
  desk.change('loan', 'b', { stage: 'declined' });
  expect(desk.at('exhibition', 'silk', 'lenders')).toBe('Orrery House');
});

describe('the total cost of a fitting', () => {
  const wall = () => {
    const desk = new Desk()
      .add('fitting', 'panel', { name: 'Panel', unitCost: gbp('18.25') })
      .add('fitting', 'bar', { name: 'Bar', unitCost: gbp('2.10') })
      .add('fitting', 'frame', { name: 'Frame', ownLabour: gbp('5.00') })
      .add('fitting', 'wall', { name: 'Wall', ownLabour: gbp('40.00') });
    for (const [whole, part, pieces] of [
      ['frame', 'bar', 4],
      ['wall', 'panel', 6],
      ['wall', 'frame', 2],
    ] as const)
      desk.add('fittingPart', `${whole} ${part}`, { title: part, whole, part, pieces: new Decimal(pieces) });
    return desk;
  };

  test('40.00 of labour, 6 panels at 18.25, 2 frames of 5.00 and 4 bars at 2.10 each: 176.30', () => {
    expect(wall().at('fitting', 'frame', 'totalCost')).toBe('13.40 GBP');
    expect(wall().at('fitting', 'wall', 'totalCost')).toBe('176.30 GBP');
  });

  test('a bar at 2.60 makes it 180.30, also in another whole that has the same part', () => {
    const desk = wall()
      .add('fitting', 'case', { name: 'Case' })
      .add('fittingPart', 'case frame', {
        title: 'frame',
        whole: 'case',
        part: 'frame',
        pieces: new Decimal(3),
      })
      .change('fitting', 'bar', { unitCost: gbp('2.60') });
    expect(desk.at('fitting', 'wall', 'totalCost')).toBe('180.30 GBP');
    expect(desk.at('fitting', 'case', 'totalCost')).toBe('46.20 GBP');
  });

  test('a fitting in itself, at any distance, is refused with the chain of names', () => {
    expect(() =>
      wall().add('fittingPart', 'loop', {
        title: 'loop',
        whole: 'bar',
        part: 'wall',
        pieces: new Decimal(1),
      }),
    ).toThrow(/would be a part of itself \(.*Wall.*\)/);
  });
});

test('the climate levy of a loan is 0.35 for each cubic metre of the gallery; without a volume it is empty', () => {
  const desk = new Desk()
    .add('institution', 'hall', { name: 'Hall', galleryVolume: new Decimal('1460.8') })
    .add('exhibition', 'silk', { title: 'Silk', venue: 'hall' })
    .add('loan', 'robes', { title: 'Robes', exhibition: 'silk' });
  // 1,460.8 × 0.35 = 511.28
  expect(desk.at('loan', 'robes', 'climateLevy')).toBe('511.28 GBP');
  desk.change('institution', 'hall', { galleryVolume: new Decimal('1000') });
  expect(desk.at('loan', 'robes', 'climateLevy')).toBe('350.00 GBP');
  desk.change('institution', 'hall', { galleryVolume: null });
  expect(desk.at('loan', 'robes', 'climateLevy')).toBe('empty');
  desk
    .change('institution', 'hall', { galleryVolume: new Decimal('2') })
    .change('exhibition', 'silk', { venue: null });
  expect(desk.at('loan', 'robes', 'climateLevy')).toBe('empty');
});

test('loans due within 45 days: the same data at two settled days', () => {
  const due = (settledDay: string) => {
    const desk = new Desk(settledDay).add('exhibition', 'silk', { title: 'Silk' });
    for (const [id, dueBack] of [
      ['a', '2026-11-20'],
      ['b', '2026-12-14'],
      ['c', '2026-12-15'],
      ['d', '2027-03-01'],
    ] as const)
      desk.add('loan', id, { title: id, exhibition: 'silk', stage: 'agreed', dueBack });
    return desk.at('exhibition', 'silk', 'dueSoon');
  };
  // 30 October and 45 days are 14 December; 1 December and 45 days are 15 January.
  expect(due('2026-10-30')).toBe('2');
  expect(due('2026-12-01')).toBe('2');
  expect(due('2026-12-15')).toBe('1');
});
