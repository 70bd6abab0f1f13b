/**
 * Which version of a row a table holds: the transaction that wrote it (`xmin`, which any write of it changes, also one from outside Oikon, and a lock
 * doesn't), and since when the server runs. Numbers of transactions come again where a server is set back to an earlier state, and once it has had
 * 2³² of them; what a process remembers isn't kept that long.
 */
export const stampOf = (alias: string): string => `${alias}.xmin::text || ${SINCE}`;

const SINCE = `'@' || extract(epoch FROM pg_postmaster_start_time())::text`;

/** What `stampOf` is of the rows that the transaction itself writes. */
export const OWN_STAMP = `pg_current_xact_id()::xid::text || ${SINCE}`;
