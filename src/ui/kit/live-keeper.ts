import type { KeeperView, ModelView } from '@/core/api';

/** The live rule that keeps a field on every record, if one does: then people can't enter it. What a paused rule kept is theirs again. */
export const liveKeeper = (view: ModelView, type: string, field: string): KeeperView['rule'] | undefined =>
  view.keepers.find(
    (keeper) =>
      keeper.type === type &&
      keeper.field === field &&
      keeper.rule.state === 'live' &&
      !keeper.isReacting &&
      !keeper.isInStep,
  )?.rule;

/** Whether a live rule fills a link: then nobody needs to enter it, though it is required. */
export const isFilledByRule = (view: ModelView, type: string, field: string): boolean =>
  view.keepers.some(
    (keeper) =>
      keeper.type === type &&
      keeper.field === field &&
      keeper.rule.state === 'live' &&
      keeper.rule.kind === 'link',
  );
