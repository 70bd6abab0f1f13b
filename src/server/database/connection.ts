import { Client } from 'pg';
import { Sequelize } from 'sequelize';
import { mostConnections } from '@/server/requests/gates';

const globals = globalThis as { oikonSequelize?: Sequelize };

/** The one Sequelize instance of this process, for the server that `DATABASE_URL` names. */
export function database(): Sequelize {
  globals.oikonSequelize ??= connect(process.env.DATABASE_URL);
  return globals.oikonSequelize;
}

function connect(url: string | undefined): Sequelize {
  if (!url)
    throw new Error(
      'DATABASE_URL isn’t set. Start Oikon with bin/demo, or set it to a PostgreSQL 15 server.',
    );
  return new Sequelize(url, {
    dialect: 'postgres',
    logging: false,
    // A connection is retired at last, with the statements that were prepared on it.
    pool: {
      ...{ max: mostConnections(), min: 0, acquire: 20_000, idle: 10_000 },
      maxUses: 20_000,
    },
    dialectOptions: { application_name: 'oikon', statement_timeout: 60_000 },
  });
}

export async function disconnect(): Promise<void> {
  await globals.oikonSequelize?.close();
  delete globals.oikonSequelize;
}

/** Milliseconds that the database has to answer whether it is there. */
const PROBE_LIMIT = 3_000;

/** What of Sequelize's pool is used to ask by a statement that is kept prepared. */
interface Pooled {
  getConnection(options: { type: 'read' }): Promise<Preparing>;
  releaseConnection(connection: Preparing): void;
}

interface Preparing {
  query(config: { name: string; text: string; values: readonly unknown[] }): Promise<{ rows: unknown[] }>;
}

/** Asks what is asked with every request: each connection plans the statement of a name once. Its text never changes while the process runs. */
export async function askPrepared<T>(
  name: string,
  text: string,
  values: readonly unknown[],
): Promise<readonly T[]> {
  const { connectionManager } = database() as unknown as { connectionManager: Pooled };
  const connection = await connectionManager.getConnection({ type: 'read' });
  try {
    return (await connection.query({ name, text, values })).rows as T[];
  } finally {
    connectionManager.releaseConnection(connection);
  }
}

/** Asks the database whether it is there, by a connection of its own: however busy the others are, it needn't wait for them. */
export async function probeDatabase(): Promise<void> {
  const client = new Client({
    connectionString: process.env.DATABASE_URL,
    application_name: 'oikon probe',
    connectionTimeoutMillis: PROBE_LIMIT,
    query_timeout: PROBE_LIMIT,
  });
  // An error between the answers would end the process where nobody listens.
  client.on('error', () => undefined);
  try {
    await client.connect();
    await client.query('SELECT 1');
  } finally {
    await client.end().catch(() => undefined);
  }
}

/** PostgreSQL's codes for a server that stops or starts, and the system's for a connection that breaks. */
const LOST = new Set(['57P01', '57P02', '57P03', 'ECONNRESET', 'ECONNREFUSED', 'EPIPE', 'ETIMEDOUT']);

/** Whether an error says that the database is away rather than that a statement is wrong. */
export function isConnectionLost(error: unknown): boolean {
  const {
    name = '',
    code,
    message = '',
    parent,
  } = error as Partial<Error> & { code?: string; parent?: unknown };
  return (
    name.startsWith('SequelizeConnection') ||
    (code !== undefined && (LOST.has(code) || code.startsWith('08'))) ||
    /^Connection terminated|^timeout expired|^Query read timeout|not queryable|Client has encountered a connection error/.test(
      message,
    ) ||
    (parent !== undefined && parent !== error && isConnectionLost(parent))
  );
}
