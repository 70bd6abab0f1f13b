/**
 * Writes `stored/NAME.sql`, a database as this version of the program stores it, and `stored/NAME.json`, what it answers; for a release.
 * `DATABASE_URL=… npx tsx src/server/testing/make-stored.ts NAME`
 */
import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { Client } from 'pg';
import { disconnect } from '@/server/database/connection';
import { answersOf, makeStoredWorkspace } from './stored-workspace';

async function main(name: string): Promise<void> {
  const url = process.env.DATABASE_URL!;
  const admin = new Client({ connectionString: url });
  await admin.connect();
  await admin.query('DROP DATABASE IF EXISTS stored');
  await admin.query('CREATE DATABASE stored');
  const stored = url.replace(/[^/]*$/, 'stored');
  process.env.DATABASE_URL = stored;
  const workspace = await makeStoredWorkspace();
  const answers = { workspace: workspace.key, answers: await answersOf(workspace.key) };
  await disconnect();
  const options = ['--inserts', '--rows-per-insert=1000', '--no-owner', '--no-privileges', '--no-comments'];
  const dump = execFileSync('pg_dump', [...options, stored], { encoding: 'utf8' });
  // What only psql understands, and remarks, aren't part of it.
  const sql = dump.replace(/^(\\.*|--.*)\n/gm, '').replace(/\n{2,}/g, '\n');
  writeFileSync(`src/server/testing/stored/${name}.sql`, sql);
  writeFileSync(`src/server/testing/stored/${name}.json`, `${JSON.stringify(answers)}\n`);
  await admin.query('DROP DATABASE stored');
  await admin.end();
}

void main(process.argv[2] ?? 'unnamed');
