import type { RuleState, RuleDefinition } from '@/core/rules';

export interface DemoRule {
  readonly definition: RuleDefinition;
  /** Left out, it is proposed from the sentence. */
  readonly name?: string;
  readonly note: string;
  readonly state: RuleState;
  /** Of a rule that reacts: it acts at once on the records that match. */
  readonly actsOnMatching?: boolean;
  /** Name of the person in charge, who is written to. */
  readonly tells?: string;
}
