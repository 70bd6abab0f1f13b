import type { Row } from '@/core/engine';
import { Decimal, type Value, foundIn, valueAt, itemAt } from '@/core/values';
import { addDays, gbp, rowOf } from './made';
import { Random } from '@/core/random';
import { Ids } from './ids';
import { makeFittings } from './fittings';
import { Pieces } from './pieces';
import { Transport } from './transport';
import { EXHIBITIONS, type ExhibitionSketch, type GroupSketch, INSTITUTIONS, PEOPLE } from './scenario';
import type { DemoData, DemoPerson } from './data';

/** Lenders state what they lend in the money of their country. */
function inCurrencyOf(lender: string, pence: number): Value {
  const { country } = foundIn(INSTITUTIONS, ({ name }) => name === lender);
  const isEuro = ['France', 'Germany', 'Ireland'].includes(country);
  // In whole hundreds, so that at a rate of four places it comes to whole pence.
  if (isEuro) return { amount: new Decimal(Math.round(pence / 10_000) * 100), currency: 'EUR' };
  return gbp(pence);
}

/** Status sheets of an exhibition. */
const SHEETS = 6;

/** The demo's people and records, always the same for a seed. Kept fields are empty: the rules fill them. */
export function demoData(seed = 1807): DemoData {
  return new Maker(seed).make();
}

class Maker {
  readonly #random: Random;
  readonly #ids: Ids;
  readonly #rows: Row[] = [];
  readonly #institutions = new Map<string, string>();
  #people: readonly DemoPerson[] = [];

  constructor(seed: number) {
    this.#random = new Random(seed);
    this.#ids = new Ids(this.#random);
  }

  make(): DemoData {
    this.#people = PEOPLE.map(([name, role]) => {
      const email = `${name.toLowerCase().replaceAll(' ', '.')}@wrenfield.example`;
      return { id: this.#ids.next(), name, email, role };
    });
    for (const sketch of INSTITUTIONS) {
      const id = this.add('institution', {
        ...{ name: sketch.name, country: sketch.country, sector: sketch.sector, roles: sketch.roles },
        partOf: sketch.partOf ? valueAt(this.#institutions, sketch.partOf) : null,
        galleryVolume: sketch.volume ? new Decimal(sketch.volume) : null,
        registrar: this.personOf('Registrar'),
        dealings: this.#random.pick(['active', 'active', 'inTalks', 'past']),
      });
      this.#institutions.set(sketch.name, id);
    }
    EXHIBITIONS.forEach((sketch) => this.makeExhibition(sketch));
    this.#rows
      .filter(({ type }) => type === 'exhibition')
      .forEach((exhibition) => this.makeSheets(exhibition));
    new Transport(this.#rows, this.#people).make();
    new Pieces(this.#rows).make();
    makeFittings(this.#rows);
    return { people: this.#people, rows: this.#rows };
  }

  private add(type: string, values: Record<string, Value>): string {
    const id = this.#ids.next();
    this.#rows.push(rowOf(type, id, values));
    return id;
  }

  private personOf(role: string): string {
    return this.#random.pick(this.#people.filter((person) => person.role === role)).id;
  }

  private makeExhibition(sketch: ExhibitionSketch): void {
    const coordinator = this.personOf('Coordinator');
    const mark = () =>
      this.#random.pick(
        sketch.stage === 'open' || sketch.stage === 'closed' ? ['green'] : ['green', 'green', 'amber', 'red'],
      );
    const exhibition = this.add('exhibition', {
      ...{
        title: sketch.title,
        stage: sketch.stage,
        opens: sketch.opens,
        closes: sketch.closes,
        climate: sketch.climate,
      },
      ...{ venue: valueAt(this.#institutions, sketch.venue), curator: this.personOf('Curator'), coordinator },
      languages: ['english', ...this.#random.some(['welsh', 'french', 'german'], 1)].sort(),
      ready: sketch.stage === 'open' || sketch.stage === 'closed',
      ...{ loansMark: mark(), transportMark: mark(), installationMark: mark() },
    });
    const lenders = this.#random.some(
      INSTITUTIONS.filter(({ roles, name }) => roles.includes('lender') && name !== sketch.venue),
      sketch.groups.length,
    );
    sketch.groups.forEach((group, index) =>
      this.makeLoan({
        sketch,
        group,
        exhibition,
        coordinator,
        lender: itemAt(lenders, index % lenders.length).name,
      }),
    );
  }

  /** A sheet every fortnight before the opening, up to the marks that the exhibition has. */
  private makeSheets({ id, values }: Row): void {
    for (let at = 0; at < SHEETS; at += 1) {
      const day = addDays(values.opens as string, -14 * (SHEETS - at));
      const mark = (field: string): Value =>
        at === SHEETS - 1 ? values[field]! : this.#random.pick(['green', 'green', 'amber', 'amber', 'red']);
      this.add('statusSheet', {
        ...{ title: `Status of ${day}`, exhibition: id, day, loansMark: mark('loansMark') },
        ...{ transportMark: mark('transportMark'), installationMark: mark('installationMark') },
        remark: this.#random.chance(0.3) ? 'The courier’s dates are still open.' : null,
      });
    }
  }

  private stageIn(stage: ExhibitionSketch['stage']): string {
    const stages = {
      proposed: ['requested', 'requested', 'requested', 'agreed', 'declined'],
      confirmed: ['agreed', 'agreed', 'agreed', 'requested', 'declined'],
      installing: ['agreed', 'agreed', 'agreed', 'agreed', 'declined'],
      open: ['agreed', 'agreed', 'agreed', 'agreed', 'declined'],
      closed: ['returned', 'returned', 'returned', 'returned', 'agreed'],
    };
    return this.#random.pick(stages[stage]);
  }

  private makeLoan(given: {
    sketch: ExhibitionSketch;
    group: GroupSketch;
    exhibition: string;
    coordinator: string;
    lender: string;
  }): void {
    const { sketch, group, exhibition, coordinator, lender } = given;
    const values = group.pieces.map(() => this.#random.whole(3, 180) * 25_000);
    const stage = this.stageIn(sketch.stage);
    // Lenders insure a loan as a whole, for somewhat more than its pieces; one that was only requested has no value yet.
    const insured =
      Math.ceil(
        (values.reduce((sum, value) => sum + value, 0) * this.#random.whole(100, 112)) / 100 / 5_000,
      ) * 5_000;
    const loan = this.add('loan', {
      ...{
        title: `${lender}, ${group.name}`,
        exhibition,
        lender: valueAt(this.#institutions, lender),
        stage,
        coordinator,
      },
      insuredValue: stage === 'requested' && this.#random.chance(0.5) ? null : inCurrencyOf(lender, insured),
      fee: this.#random.chance(0.25) ? null : gbp(this.#random.whole(4, 60) * 2_500),
      dueBack: addDays(sketch.closes, this.#random.whole(2, 8) * 7),
      climate: sketch.climate,
      languages: ['english'],
      courierInstruction: this.#random.chance(0.2)
        ? 'Courier travels with the crates and is present at unpacking.'
        : null,
    });
    group.pieces.forEach((title, index) =>
      this.makeArtefact({ title, kind: group.kind, loan, value: itemAt(values, index) }),
    );
  }

  private makeArtefact({
    title,
    kind,
    loan,
    value,
  }: {
    title: string;
    kind: GroupSketch['kind'];
    loan: string;
    value: number;
  }): void {
    const inspected = this.#random.chance(0.7);
    this.add('artefact', {
      ...{ title, loan, objectKind: kind, agreedValue: gbp(value) },
      maker: this.#random.pick([
        'Unknown',
        'Unknown',
        'Unknown',
        'Workshop of the north gate',
        'J. Harrow',
        'A. Fell',
        'Tomas the Younger',
        'Sister Anselma',
      ]),
      volume: new Decimal(this.#random.whole(2, 900)).div(1000),
      fragile: this.#random.chance(kind === 'ceramic' || kind === 'instrument' ? 0.7 : 0.25),
      inspected,
      inspectedOn: inspected ? addDays('2026-10-30', -this.#random.whole(1, 400)) : null,
      inspectedBy: inspected ? this.personOf('Registrar') : null,
      handlingGrade: this.#random.chance(0.9) ? new Decimal(this.#random.whole(1, 6)) : null,
      needsPermit: this.#random.chance(0.12),
    });
  }
}
