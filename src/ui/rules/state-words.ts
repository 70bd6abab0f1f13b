import type { RuleView } from '@/core/api';
import { reacts, type RuleDefinition } from '@/core/rules';
import { byKind, sameData } from '@/core/values';

/** In words, what a rule's state means for the records; `null` for a new one. */
export function stateWords(rule: RuleView | null): string {
  if (!rule) return 'Save it as a draft: a draft changes nothing. Then see what taking it live would change.';
  return STATES[rule.state](rule);
}

const STATES = {
  retired: () => '',
  draft: () => 'A draft changes nothing. Try it on the bench, or see what taking it live would change.',
  live: (rule) =>
    rule.pilot?.tried
      ? `Live, and ${isTriedAsWritten(rule) ? 'the change written here' : 'a change of it'} is tried on a pilot: ${rule.pilot.words}. On all others it goes on as it was.${isTriedAsWritten(rule) ? '' : ' What is written here waits until you take it live.'}`
      : rule.pilot
        ? `A pilot: it runs for ${rule.pilot.words}. Elsewhere it does nothing, and people go on entering the field.`
        : rule.hasChangesNotLive
          ? 'The rule is live as it was; the change written here waits until you take it live.'
          : liveWords(rule.definition, rule),
  paused: ({ definition }) =>
    reacts(definition)
      ? 'Paused: it changes nothing.'
      : 'Paused: its values stand still and people may edit them. Taking it live works all of them out again.',
} as const satisfies Readonly<Record<RuleView['state'], (rule: RuleView) => string>>;

const keptWords = (_: RuleDefinition, { later }: RuleView): string =>
  later
    ? 'Live: people can’t edit the field. Until its pace comes round, a value says as of when it is.'
    : 'Live: the field is worked out with every save, and people can’t edit it.';

const liveWords = byKind<RuleDefinition, [rule: RuleView], string>({
  rollUp: (definition, rule) =>
    reacts(definition)
      ? 'Live: it acts when its result changes. People may edit the field too.'
      : keptWords(definition, rule),
  formula: keptWords,
  cascade: (definition) =>
    reacts(definition)
      ? 'Live: it cascades from now on. People may edit the fields too.'
      : 'Live: the fields are kept in step with every save, and where the rule applies people can’t edit them.',
  create: () => 'Live: it makes records from now on, and looks after those that it made.',
  link: ({ holds }) =>
    holds === 'always'
      ? 'Live: the link is kept with every save, and where the rule applies people can’t enter it.'
      : 'Live: where the link is empty it is filled with the save. People may enter another.',
});

/** Whether what a pilot tries beside the live rule is the rule as it is written now. */
export const isTriedAsWritten = ({ pilot, definition }: RuleView): boolean =>
  Boolean(pilot?.tried) && sameData(pilot?.tried, definition);

/** What is told of a rule’s change beside its state; `null` where there is nothing to tell. */
export function changeWords(rule: RuleView): string | null {
  if (rule.pilot?.tried) return isTriedAsWritten(rule) ? 'Change in pilot' : 'Change in pilot, changed again';
  return rule.hasChangesNotLive ? 'Change not live' : null;
}

/** Whether a rule runs for some records only, and does nothing elsewhere. */
export const isPilotOnly = ({ pilot }: RuleView): boolean => pilot !== null && !pilot.tried;
