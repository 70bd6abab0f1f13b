import type { Expression } from '@/core/expression';
import type { Cascade, RollUp } from '@/core/rules';
import { fieldOf } from './galleries';
import { cascade, CASCADES, down, from, when } from './touring';

const IS_AGREED: Expression = {
  ...{ kind: 'compare', operator: '=', left: fieldOf('stage') },
  right: { kind: 'constant', value: 'agreed' },
};

const agreed = (given: Pick<RollUp, 'target'> & Partial<RollUp>): RollUp => ({
  ...{ kind: 'rollUp', type: 'exhibition', aggregate: 'count', value: null, whenNone: '0' },
  ...{ route: [down('loan', 'exhibition')], condition: IS_AGREED, rounding: null, pace: 'withTheSave' },
  ...given,
});

/** A loan's coordinator to its exhibition, which cascades it to all its loans. */
export const BACK: Cascade = cascade({
  ...{ type: 'loan', route: [{ direction: 'up', link: 'exhibition' }], assignments: [from('coordinator')] },
  moment: when({ kind: 'changed', field: 'coordinator' }),
});

/** Where two loans are agreed the exhibition opens, and then all its loans are agreed; how many are is kept. */
export const AGREED: RollUp = agreed({ target: 'artefactCount' });
export const OPENS: RollUp = agreed({
  ...{ target: 'phase', whenNone: null },
  map: { rows: [{ operator: '>=', than: '2', writes: 'open' }], otherwise: { kind: 'asItIs' } },
});
export const ALL_AGREED: Cascade = cascade({
  ...{ type: 'exhibition', route: [down('loan', 'exhibition')] },
  moment: when({ kind: 'became', field: 'phase', value: 'open' }),
  assignments: [
    { target: 'stage', value: { kind: 'expression', expression: { kind: 'constant', value: 'agreed' } } },
  ],
});

/** Rules in two circles, each through some that react. */
export const CIRCLES = [CASCADES.coordinator, BACK, AGREED, OPENS, ALL_AGREED] as const;
