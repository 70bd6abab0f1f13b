import { RULES } from './rules/rules';

/** A request of the demo. Rules are meant by the field that they write or the type that they make; proofs by how their names begin. */
export interface DemoRequest {
  readonly name: string;
  readonly askedBy: string;
  readonly words: string;
  /** Days from the day on which the demo is loaded. */
  readonly dueIn: number | null;
  readonly rules: readonly string[];
  readonly points: readonly {
    readonly text: string;
    readonly shown: readonly (readonly [rule: string, proof: string])[];
  }[];
  readonly agreed?: { readonly name: string; readonly note: string };
}

/** What a rule writes: `loan.artefactCount`, `makes treatment`. */
const writesOf = ({ definition }: (typeof RULES)[number]): readonly string[] => {
  switch (definition.kind) {
    case 'create':
      return [`makes ${definition.makes}`];
    case 'cascade':
      return definition.assignments.map(({ target }) => `${definition.type} → ${target}`);
    default:
      return [`${definition.type}.${definition.target}`];
  }
};

/** The place among the demo's rules of the one that writes something. */
export function ruleWriting(what: string): number {
  const at = RULES.findIndex((rule) => writesOf(rule).includes(what));
  if (at < 0) throw new RangeError(`No rule of the demo writes ${what}.`);
  return at;
}

export const REQUESTS: readonly DemoRequest[] = [
  {
    ...{ name: 'Climate on every loan', askedBy: 'Priya Ramanathan', dueIn: -6 },
    words:
      'All loans need the climate of their exhibition, also one that comes later. Only what was declined doesn’t matter.',
    rules: ['exhibition → climate'],
    points: [
      { text: 'A loan that comes later has it too', shown: [] },
      { text: 'Declined loans stay as they are', shown: [] },
    ],
  },
  {
    ...{ name: 'Papers for protected materials', askedBy: 'Elsie Hartnoll', dueIn: 12 },
    words:
      'If one of its materials is protected, I have to apply for papers. And how many pieces of an exhibition need them? I don’t want to open every one.',
    rules: ['artefact.needsPermit', 'exhibition.artefactsToPermit'],
    points: [
      {
        text: 'A piece without protected materials needs none',
        shown: [['artefact.needsPermit', 'None counts']],
      },
      {
        text: 'One protected material among several is enough',
        shown: [['artefact.needsPermit', 'Several come together']],
      },
    ],
  },
  {
    ...{ name: 'When the last loan must be home', askedBy: 'Farid Benhaddou', dueIn: 20 },
    words: 'When does the last loan have to be home? I book the lorries by it.',
    rules: ['exhibition.lastDueBack'],
    points: [],
  },
  {
    ...{ name: 'The latest of each courier', askedBy: 'Elsie Hartnoll', dueIn: 35 },
    words:
      'Beside each courier I want to read which exhibition is their latest, and when that opens. One goes with several.',
    rules: ['exhibition → latestExhibition'],
    points: [],
  },
  {
    ...{ name: 'Couriers on tour', askedBy: 'Elsie Hartnoll', dueIn: 33 },
    words:
      'Once the exhibition is open all its couriers are on tour, not only the first. And their assignment says with what, and until when.',
    rules: ['exhibition → availability', 'exhibition → note'],
    points: [
      {
        text: 'Every courier of an exhibition that opens is on tour',
        shown: [['exhibition → availability', 'What the condition asks: Availability of Courier A becomes']],
      },
      {
        text: 'Couriers of other exhibitions stay as they are',
        shown: [['exhibition → availability', 'What the condition asks: Availability of Courier B stays']],
      },
    ],
  },
  {
    ...{ name: 'Damage goes to the conservators', askedBy: 'Priya Ramanathan', dueIn: 47 },
    words:
      'When we look at a piece and it is damaged, the conservators must have it on their list. Not from a photograph, and not twice.',
    rules: ['makes treatment'],
    points: [],
  },
  {
    ...{ name: 'Who looked at it, and when', askedBy: 'Priya Ramanathan', dueIn: null },
    words: 'Whoever ticks it as completed has looked at it, on that day. Unless somebody entered another.',
    rules: ['inspection → inspector'],
    points: [
      {
        text: 'Who completes it is the inspector, on that day',
        shown: [['inspection → inspector', 'What the condition asks: Inspector of Inspection A becomes']],
      },
      {
        text: 'What stands there already stays, whoever completes it again',
        shown: [['inspection → inspector', 'Completed again by somebody else']],
      },
    ],
  },
  {
    ...{ name: 'Letters go to the house', askedBy: 'Ines Valcourt', dueIn: null },
    words:
      'A department lends, but the letter goes to the house. One list of all its loans, whichever department.',
    rules: ['loan.topLender'],
    points: [
      {
        text: 'A loan of a department names the house above it',
        shown: [['loan.topLender', 'One moves']],
      },
    ],
    agreed: { name: 'Ines Valcourt', note: 'went through three of her loans' },
  },
  {
    ...{ name: 'Pieces on loans and exhibitions', askedBy: 'Maren Oduya', dueIn: null },
    words: 'Show me on each loan how many pieces are in it, and on each exhibition over all of its loans.',
    rules: ['loan.artefactCount', 'exhibition.artefactCount'],
    points: [
      {
        text: 'A piece that moves counts where it is',
        shown: [
          ['loan.artefactCount', 'One moves'],
          ['exhibition.artefactCount', 'One moves'],
        ],
      },
      {
        text: 'With none it says 0 and isn’t empty',
        shown: [['exhibition.artefactCount', 'Nothing beneath it']],
      },
    ],
  },
  {
    ...{ name: 'What lenders charge', askedBy: 'Callum Reyes', dueIn: null },
    words: 'Roughly what do lenders charge us, on average?',
    rules: ['exhibition.averageFee'],
    points: [],
  },
];
