/**
 * When a kept result is brought up to date: with the save that changes what it is made of, soon after it, at set times, or when somebody
 * asks for it.
 */
export type Pace = 'withTheSave' | 'soonAfter' | Timetable | OnRequest;

/** Set times, in the workspace's time zone. */
export interface Timetable {
  readonly kind: 'timetable';
  readonly every: 'hour' | 'day' | 'week' | 'month';
  /** Hour and minute as `06:00`; of a timetable for every hour the minute alone counts. */
  readonly at: string;
  /** For every week: 1 for Monday to 7 for Sunday (ISO 8601). */
  readonly weekday?: number;
  /** For every month: 1 to 28, a day that each of them has. */
  readonly day?: number;
}

/** By a button on the record, or when a yes/no field of it turns yes. */
export interface OnRequest {
  readonly kind: 'onRequest';
  /** Key of the yes/no field; `null` for the button alone. */
  readonly field: string | null;
}
