import { Decimal, type Money } from '@/core/values';
import type { ChangeView } from '@/core/verify';

export const money = (amount: number, currency = 'GBP'): Money => ({ amount: new Decimal(amount), currency });

interface Given extends Partial<Pick<ChangeView, 'id' | 'title' | 'field' | 'problem' | 'rule' | 'causes'>> {
  readonly before?: string;
  readonly after?: string;
}

const COORDINATOR = { id: 'r', name: 'Coordinator of loans', kind: 'cascade', pace: null } as const;

/** A change of a loan's coordinator by a cascade, or of what is given. */
export const changeOf = ({
  id = '1',
  title = `Loan ${id}`,
  field = 'coordinator',
  before = 'a',
  after = 'b',
  problem = null,
  rule = COORDINATOR,
  causes = [],
}: Given): ChangeView => ({
  ...{ type: 'loan', typeName: 'Loan', plural: 'Loans', id, title, field, problem, rule, causes },
  ...{ kind: 'field', fieldName: field === 'coordinator' ? 'Coordinator' : field, difference: null },
  ...{ before: { wire: before, text: before }, after: { wire: after, text: after } },
});
