import { pino } from 'pino';

/** What an operator should know, one JSON line each. */
export const log = pino({ name: 'oikon', level: process.env.LOG_LEVEL ?? 'info' });
