import { called } from '@/core/called';
import { article } from '@/core/article';
import type { ProposalView } from '@/core/api';

/** `An Insurance line for Court robe`, `A change of Insurance line Court robe`. */
export function whatWords({ kind, typeName, source, target }: ProposalView): string {
  if (kind === 'make') {
    const one = `${article(typeName)} ${typeName}`;
    return `${one.charAt(0).toUpperCase()}${one.slice(1)} for ${source.title}`;
  }
  if (kind === 'choose') return `Which of several for ${target?.title ?? source.title}`;
  return `A change of ${called(typeName, target?.title ?? source.title)}`;
}

const STATES: Record<ProposalView['state'], string> = {
  open: 'Waits',
  told: 'Done, to be seen',
  approved: 'Approved',
  refused: 'Refused',
  withdrawn: 'Open no more: the record no longer applies, or the rule was paused',
  seen: 'Seen',
};

export const stateWords = ({ state, reason }: ProposalView): string =>
  reason ? `${STATES[state]}: ${reason}` : STATES[state];
