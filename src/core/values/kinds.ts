import type { Kind } from './value';

/** What the kinds of field have in common, where it isn't a matter of one place alone. */
export type Trait =
  /** A size that can be averaged, and between which there is a distance. */
  | 'amount'
  /** Shown as a number, right-aligned. */
  | 'numeric'
  /** Less and more mean something. */
  | 'ordered'
  /** A change can be a rise or a fall. */
  | 'rising'
  /** So short and so often the same that “is among” makes sense. */
  | 'listed'
  /** A link's record can be found by it in a file. */
  | 'found'
  /** A link rule finds records by it: its values are the same or not, whatever their places. */
  | 'matched'
  /** Part of the key by which the rows of a file find their records. */
  | 'key'
  /** No two records may have the same. */
  | 'unique'
  /** Chosen rather than typed: choosing is entering. */
  | 'chosen'
  /** It can stand on an axis over time. */
  | 'charted';

interface KindEntry {
  readonly name: string;
  readonly traits: readonly Trait[];
}

/** Every kind of field. */
export const KINDS = {
  text: { name: 'text', traits: ['listed', 'found', 'matched', 'key', 'unique'] },
  longText: { name: 'long text', traits: [] },
  number: {
    name: 'number',
    traits: [
      'amount',
      'numeric',
      'ordered',
      'rising',
      'listed',
      'found',
      'matched',
      'key',
      'unique',
      'charted',
    ],
  },
  money: { name: 'money', traits: ['amount', 'numeric', 'ordered', 'rising', 'key', 'unique', 'charted'] },
  anyMoney: { name: 'money in any currency', traits: ['numeric'] },
  rating: {
    name: 'rating',
    traits: [
      ...(['amount', 'numeric', 'ordered', 'rising', 'listed', 'found', 'matched'] as const),
      ...(['key', 'unique', 'chosen', 'charted'] as const),
    ],
  },
  yesNo: { name: 'yes/no', traits: ['matched', 'chosen', 'charted'] },
  date: { name: 'date', traits: ['ordered', 'rising', 'found', 'matched', 'key', 'unique'] },
  dateTime: { name: 'date-time', traits: ['ordered', 'rising', 'matched', 'key', 'unique'] },
  choice: {
    name: 'choice',
    traits: ['ordered', 'rising', 'listed', 'found', 'matched', 'key', 'unique', 'chosen', 'charted'],
  },
  choices: { name: 'several choices', traits: [] },
  person: { name: 'person', traits: ['listed', 'matched', 'key', 'unique', 'chosen'] },
  link: { name: 'link', traits: ['listed', 'found', 'matched', 'key', 'unique', 'chosen'] },
  serial: { name: 'serial number', traits: ['ordered', 'listed', 'found', 'matched', 'key', 'unique'] },
} as const satisfies Readonly<Record<Kind, KindEntry>>;

export const ALL_KINDS = Object.keys(KINDS) as readonly Kind[];

export const KIND_NAMES: Readonly<Record<Kind, string>> = Object.fromEntries(
  ALL_KINDS.map((kind) => [kind, KINDS[kind].name]),
) as Record<Kind, string>;

export const hasTrait = (kind: Kind, trait: Trait): boolean =>
  (KINDS[kind].traits as readonly Trait[]).includes(trait);

/** The kinds that have a trait, in the order of the table. */
export const kindsWith = (trait: Trait): readonly Kind[] => ALL_KINDS.filter((kind) => hasTrait(kind, trait));
