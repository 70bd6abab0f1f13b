import type { DemoRule } from './demo-rule';

/** Links that find their record, each with what a colleague asked for. */
export const LINKS: readonly DemoRule[] = [
  {
    definition: {
      ...{
        kind: 'link',
        type: 'loan',
        target: 'topLender',
        appliesWhen: null,
        holds: 'always',
        none: 'clear',
      },
      find: { kind: 'route', route: ['lender'], topmost: 'partOf', whenNoneAbove: 'itself' },
      pace: 'withTheSave',
    },
    name: 'Top lender of a loan',
    note: 'Ines Valcourt: “A department lends, but the letter goes to the house. One list of all its loans, whatever department they come from, and when a department moves they move along.”',
    state: 'live',
  },
  {
    definition: {
      ...{
        kind: 'link',
        type: 'artefact',
        target: 'crate',
        appliesWhen: null,
        holds: 'whereEmpty',
        none: 'leave',
      },
      find: {
        kind: 'match',
        keys: [{ field: 'label', value: { kind: 'field', route: [], field: 'crateLabel' } }],
        ...{ ignoresCase: true, condition: null, several: 'ask', order: null },
      },
      pace: 'withTheSave',
    },
    name: 'Crate of an artefact by its label',
    tells: 'Farid Benhaddou',
    note: 'Farid Benhaddou: “The packers send a list of pieces with what is written on the crate. Put each into its crate; where two crates are called the same, ask me.”',
    state: 'live',
  },
];
