/** What the JSON API answers about the model and what changing it would do. */

import type { OptionList, Pace, RecordType, RuleDefaults, Selection } from '@/core/model';
import type { RuleState } from '@/core/rules';
import type { Problem } from '@/core/values';
import type { ModelEffects } from '@/core/verify/review/model-effects';
import type { RuleName } from '@/core/verify/explain/views';
import type { StepView } from './ledger';
export interface ModelView {
  /** The workspace's name. */
  readonly name: string;
  readonly types: readonly RecordType[];
  readonly lists: readonly OptionList[];
  readonly selections: readonly Selection[];
  readonly ruleDefaults: RuleDefaults;
  /** The day that relative dates count from. */
  readonly settledDay: string;
  /** By whose clocks days begin (IANA name). */
  readonly timeZone: string;
  /** The version of the model, for changes of it. */
  readonly version: number;
  readonly keepers: readonly KeeperView[];
}

/** How many records a selection has, and would have. */
export interface SelectionEffect {
  readonly key: string;
  readonly name: string;
  /** The plural of its type. */
  readonly plural: string;
  /** `null` for one that isn't there before, or afterwards. */
  readonly before: number | null;
  readonly after: number | null;
}

/** What a change of the model would do, and what stands against it. */
export interface ModelRehearsal extends ModelEffects {
  readonly steps: readonly StepView[];
  /** Selections that are made or changed: how many records are in each. */
  readonly selections: readonly SelectionEffect[];
  /** What is wrong with the model as it would be, each at its place. */
  readonly problems: readonly Problem[];
  readonly isPossible: boolean;
}

/** Who keeps which field: a live rule, or a paused one, whose values stand still. Into which a rule only reacts, people enter too. */
export interface KeeperView {
  readonly type: string;
  readonly field: string;
  readonly isReacting: boolean;
  /** It keeps the field in step where it applies; elsewhere people enter it. Which records those are, a record says (`claimed`). */
  readonly isInStep: boolean;
  /** The settled day, where the value hangs on it and the calendar is further on: the value isn't brought up to date yet. */
  readonly asOf: string | null;
  readonly pace: Pace;
  readonly rule: RuleName & { readonly state: RuleState };
}
