import { Sequelize } from 'sequelize';

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
      ...{ max: Number(process.env.OIKON_POOL ?? 12), min: 0, acquire: 20_000, idle: 10_000 },
      maxUses: 20_000,
    },
    dialectOptions: { application_name: 'oikon', statement_timeout: 60_000 },
  });
}

export async function disconnect(): Promise<void> {
  await globals.oikonSequelize?.close();
  delete globals.oikonSequelize;
}
