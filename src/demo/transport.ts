import { itemAt, type Value } from '@/core/values';
import type { Row } from '@/core/engine';
import { addDays, gbp, rowOf } from './made';
import { Random } from '@/core/random';
import { Ids } from './ids';
import type { DemoPerson } from './data';

const CARRIERS = ['Northgate Fine Art Haulage', 'Lindqvist & Oake', 'Seaboard Art Transport'];
/** Pieces of a loan that travel together. */
const PER_CRATE = 4;

const COURIERS = ['Wilhelmina Starke', 'Obi Marchetti', 'Greta Holm', 'Rhys Penhallow', 'Lucia Ferrant'];

/** A crate is labelled by its exhibition and a number. */
const exhibitionOf = (label: string): string => label.replace(/ \d+a?$/, '');

/** What was found wrong, of those that are damaged. */
const FINDINGS = [
  'A hairline crack, about 4 cm, not through.',
  'Flaking along the lower edge; loose where touched.',
  'A seam has opened at the left side.',
  'Old glue has yellowed and lets go.',
  'Corrosion where two metals meet.',
];

/** What is on its way, or was, or will be: shipments with crates, smaller crates in them, and inspections of pieces and crates. */
export class Transport {
  readonly #random = new Random(4410);
  readonly #ids = new Ids(this.#random);

  constructor(
    private readonly rows: Row[],
    private readonly people: readonly DemoPerson[],
  ) {}

  make(): void {
    for (const exhibition of this.of('exhibition'))
      if (exhibition.values.stage !== 'proposed') this.pack(exhibition);
    for (const artefact of this.of('artefact')) this.inspect(artefact);
    this.assign();
  }

  /** Couriers, who go with exhibitions; some with several. */
  private assign(): void {
    const couriers = COURIERS.map((name, at) =>
      this.add('courier', {
        ...{ name, email: `${name.toLowerCase().replaceAll(' ', '.')}@courier.example` },
        availability: at % 4 === 3 ? 'onLeave' : 'free',
      }),
    );
    for (const exhibition of this.of('exhibition')) {
      const [first, second] = this.#random.some(couriers, 2);
      for (const [courier, role] of [
        [first!, 'accompanies the outward leg'],
        [second!, 'stays for the installation'],
      ] as const)
        this.add('assignment', {
          role: `${courier.values.name as string} ${role}`,
          ...{ courier: courier.id, exhibition: exhibition.id },
        });
    }
  }

  private of(type: string): Row[] {
    return this.rows.filter((row) => row.type === type);
  }

  private add(type: string, values: Record<string, Value>): Row {
    const row = rowOf(type, this.#ids.next(), values);
    this.rows.push(row);
    return row;
  }

  private registrar(): string {
    return this.#random.pick(this.people.filter(({ role }) => role === 'Registrar')).id;
  }

  /** One shipment there: a crate for each agreed loan, with a smaller one inside where it has many pieces. */
  private pack({ id: exhibition, values }: Row): void {
    const isThere = values.stage === 'open' || values.stage === 'closed';
    const shipment = this.add('shipment', {
      ...{ leg: `${values.title as string}, outward`, exhibition, carrier: this.#random.pick(CARRIERS) },
      ...{ stage: isThere ? 'delivered' : values.stage === 'installing' ? 'packed' : 'planned' },
      limit: gbp(150_000_000),
    });
    const loans = this.of('loan').filter(
      (loan) =>
        loan.values.exhibition === exhibition && ['agreed', 'returned'].includes(loan.values.stage as string),
    );
    loans.forEach((loan, at) => {
      const pieces = this.of('artefact').filter((artefact) => artefact.values.loan === loan.id);
      const crate = this.crate(`${values.title as string} ${at + 1}`, shipment.id, null, isThere);
      const inner =
        pieces.length > PER_CRATE
          ? this.crate(`${values.title as string} ${at + 1}a`, shipment.id, crate.id, isThere)
          : null;
      pieces.forEach((piece, place) => this.put(piece, (place < PER_CRATE ? crate : (inner ?? crate)).id));
      if (this.#random.chance(0.5)) this.inspectCrate(crate, values.opens as string);
    });
  }

  private crate(label: string, shipment: string, inside: string | null, sealed: boolean): Row {
    return this.add('crate', {
      ...{ label, shipment, inside, ownCover: gbp(this.#random.whole(2, 20) * 10_000) },
      sealed: sealed || this.#random.chance(0.4),
      delivered: sealed,
      stamp: sealed ? `Delivered: ${exhibitionOf(label)}, outward` : null,
    });
  }

  private put(piece: Row, crate: string): void {
    const at = this.rows.findIndex(({ id }) => id === piece.id);
    this.rows[at] = { ...piece, values: { ...piece.values, crate } };
  }

  private inspectCrate(crate: Row, opens: string): void {
    this.add('inspection', {
      ...{
        title: `${crate.values.label as string}, before packing`,
        crate: crate.id,
        inspector: this.registrar(),
      },
      ...{ byPhoto: false, completed: true, completedOn: addDays(opens, -21), outcome: 'sound' },
    });
  }

  /** The inspection that a piece's last date comes from, and for some an earlier one, or one that is only planned. */
  private inspect({ id: artefact, values }: Row): void {
    const title = values.title as string;
    const on = values.inspectedOn as string | null;
    if (on === null) return;
    if (this.#random.chance(0.2))
      this.add('inspection', {
        ...{ title: `${title}, on arrival`, artefact, inspector: this.registrar(), byPhoto: false },
        ...{ completed: true, completedOn: addDays(on, -this.#random.whole(60, 300)), outcome: 'sound' },
      });
    const outcome = this.#random.pick(['sound', 'sound', 'sound', 'sound', 'watch', 'damage']);
    this.add('inspection', {
      ...{ title: `${title}, condition check`, artefact, inspector: values.inspectedBy! },
      ...{ byPhoto: false, completed: true, completedOn: on, outcome },
      finding: outcome === 'damage' ? itemAt(FINDINGS, this.rows.length % FINDINGS.length) : null,
    });
    if (this.#random.chance(0.1))
      this.add('inspection', {
        ...{ title: `${title}, from photographs`, artefact, inspector: this.registrar(), byPhoto: true },
        ...{ completed: false, completedOn: null, outcome: null },
      });
  }
}
