import type { Model, Pace, RecordType, Timetable } from '@/core/model';
import { KIND_NAMES, type Problem } from '@/core/values';
import { finding } from './shared/check-target';
import type { CompiledRule, RuleDefinition } from './rule';
import type { FieldRef } from './shared/base';

/** Whether a rule's values may be behind what they are made of, until its pace comes round. */
export const isSlower = ({ pace }: Pick<CompiledRule, 'pace'>): boolean => pace !== 'withTheSave';

/** Whether a field of its type that turns yes asks for a rule's result. */
export const isAskedBy = ({ pace, writes }: CompiledRule, { type, field }: FieldRef): boolean =>
  typeof pace !== 'string' && pace.kind === 'onRequest' && writes.type === type && pace.field === field;

export const WEEKDAYS = [
  'Monday',
  'Tuesday',
  'Wednesday',
  'Thursday',
  'Friday',
  'Saturday',
  'Sunday',
] as const;

const TIME = /^([01]\d|2[0-3]):[0-5]\d$/;

/** Whether a timetable can be kept. */
export function isTimetable({ every, at, weekday, day }: Timetable): boolean {
  const isWithin = (number: number | undefined, most: number) =>
    number !== undefined && Number.isInteger(number) && number >= 1 && number <= most;
  if (!TIME.test(at)) return false;
  if (every === 'week') return isWithin(weekday, 7);
  return every === 'month' ? isWithin(day, 28) : every === 'hour' || every === 'day';
}

/**
 * Checks the pace of a rule on a type. Refuses set times that aren't times, a field that isn't a yes/no of the type, and any pace but
 * with the save for a rule that reacts: it acts on the change of one save.
 */
export function checkPace(model: Model, { type, pace }: RuleDefinition, isReacting: boolean): Problem[] {
  if (pace === 'withTheSave') return [];
  if (isReacting) {
    const message = 'A rule that reacts acts with the save that changes its result. Choose with the save.';
    return [finding('pace', 'rule.pace', message)];
  }
  return checkTimes(pace) ?? checkAsked(model.type(type), pace);
}

/** What is wrong with set times; `null` where there are none. */
export function checkTimes(pace: Pace): Problem[] | null {
  if (typeof pace === 'string' || pace.kind !== 'timetable') return null;
  if (isTimetable(pace)) return [];
  const message =
    'Choose when: a time such as 06:00, for every week a day from 1 (Monday) to 7, for every month a day from 1 to 28.';
  return [finding('pace', 'rule.pace', message)];
}

function checkAsked(type: RecordType | undefined, pace: Pace): Problem[] {
  if (!type || typeof pace === 'string' || pace.kind !== 'onRequest' || pace.field === null) return [];
  const field = type.fields.find(({ key }) => key === pace.field);
  if (field?.type.kind === 'yesNo') return [];
  const found = field
    ? `${field.name} is ${KIND_NAMES[field.type.kind]}`
    : `there is no field “${pace.field}”`;
  const message = `A request is a yes/no field of ${type.name} that turns yes; ${found}. Choose another field, or the button alone.`;
  return [finding('pace', 'rule.pace', message)];
}

/** `soon after`, `every Monday at 06:00`, `on request, or when Recount turns yes`. */
export function paceWords(pace: Pace, fieldName: (key: string) => string = (key) => key): string {
  if (pace === 'withTheSave') return 'with the save';
  if (pace === 'soonAfter') return 'soon after';
  if (pace.kind === 'onRequest')
    return pace.field === null ? 'on request' : `on request, or when ${fieldName(pace.field)} turns yes`;
  const { every, at, weekday = 1, day = 1 } = pace;
  if (every === 'hour') return `every hour at minute ${at.slice(3)}`;
  if (every === 'day') return `every day at ${at}`;
  return every === 'week'
    ? `every ${WEEKDAYS[weekday - 1] ?? 'week'} at ${at}`
    : `every month on day ${day} at ${at}`;
}
