import type { Model } from '@/core/model';
import type { Problem } from '@/core/values';
import type { KeeperView } from '@/core/api';

/** What an editor of a rule's sentence is given. */
export interface EditorProps<Draft> {
  readonly model: Model;
  readonly draft: Draft;
  readonly onChange: (draft: Draft) => void;
  readonly problems: readonly Problem[];
  /** Fields that rules keep already; this rule's own id is left aside. */
  readonly keepers: readonly KeeperView[];
  readonly ruleId: string | null;
  readonly nameOf: (id: string) => string | undefined;
}

/** What stands in the way of a part of the sentence, or of something within it. */
export const problemAt = (problems: readonly Problem[], part: string): Problem | undefined =>
  problems.find(({ place }) => place === part || place?.startsWith(`${part}.`));

/** Live rules other than this one that keep a field. */
export const othersKeeping = (
  { keepers, ruleId }: Pick<EditorProps<unknown>, 'keepers' | 'ruleId'>,
  type: string | null,
  field: string,
): KeeperView[] =>
  keepers.filter(
    (keeper) =>
      keeper.type === type &&
      keeper.field === field &&
      keeper.rule.id !== ruleId &&
      keeper.rule.state === 'live',
  );
