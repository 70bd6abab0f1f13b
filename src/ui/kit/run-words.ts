import type { HistoryEntry } from '@/core/api';

/** What somebody did by a run. */
export const RUN_WORDS: Record<HistoryEntry['kind'], string> = {
  save: 'saved',
  load: 'loaded',
  import: 'imported',
  listEdit: 'edited a list',
  live: 'took rules live',
  pause: 'paused rules',
  model: 'changed the model',
  day: 'settled a day',
  pace: 'brought values up to date',
};
