import type { Step } from '../model';
import type { RollUp } from './roll-up';

/** A statement about records that Oikon keeps. One member for each kind of rule. */
export type RuleDefinition = RollUp;

/** A draft is written and tried; a live rule holds for every record; a paused one stands still, and so do its values. */
export type RuleState = 'draft' | 'live' | 'paused';

/** A version of a rule together with what names it: what the plan is built from. */
export interface Rule {
  readonly id: string;
  /** Id of the immutable version whose definition this is. */
  readonly version: string;
  readonly name: string;
  readonly definition: RuleDefinition;
}

/** A field of a type, as something that rules read and write. */
export interface FieldRef {
  readonly type: string;
  readonly field: string;
}

/** A field that a rule reads, on the records reached by `path` from the record whose field it keeps. */
export interface Read extends FieldRef {
  readonly path: readonly Step[];
}
