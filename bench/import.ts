import { importRecords } from '@/server/actions/imports/import-records';
import { readModel } from '@/core/model';
import { toWire } from '@/core/values';
import { Client } from 'pg';
import { from as copyFrom } from 'pg-copy-streams';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { exhibitionId, FIVE, goLive, loanValues, MODEL, workspaceOf } from './data';
import { compare, type Figure, timed } from './measure';

const KEY = 'bench-import';
const SCHEMA = 'w_bench_import';
const EXHIBITIONS = 10_000;
const LOANS = 1_000_000;
const model = readModel(MODEL);

/** The records as they come in, parsed already: the same text is behind both sides. */
function* records(): Iterable<Record<string, unknown>> {
  for (let at = 0; at < LOANS; at += 1) {
    const values = loanValues(at, exhibitionId(at % EXHIBITIONS));
    yield Object.fromEntries(
      Object.entries(values).map(([key, value]) => [key, toWire(model.field('loan', key)!.type, value)]),
    );
  }
}

const COLUMNS = ['title', 'exhibition', 'lender', 'stage', 'insured_value', 'fee', 'due_back', 'climate'];

/** The same as COPY takes it: ids and runs included. */
function* lines(): Iterable<string> {
  let piece = '';
  let at = 0;
  for (const record of records()) {
    const amount = (value: unknown) => (value === null ? '\\N' : (value as { amount: string }).amount);
    const id = `00000000-0000-7000-c000-${at.toString(16).padStart(12, '0')}`;
    piece += `${id}\t1\t1\t${String(record.title)}\t${String(record.exhibition)}\t${String(record.lender)}\t${String(record.stage)}\t${amount(record.insuredValue)}\t${amount(record.fee)}\t${String(record.dueBack)}\t${String(record.climate)}\n`;
    at += 1;
    if (piece.length < 1 << 16) continue;
    yield piece;
    piece = '';
  }
  yield piece;
}

export async function benchImport(url: string): Promise<Figure[]> {
  const { by, rules } = await workspaceOf({
    ...{ key: KEY, exhibitions: EXHIBITIONS, loans: 0, exhibitionOf: () => 0, rules: FIVE },
  });
  await goLive(by, rules);
  const client = new Client({ connectionString: url });
  await client.connect();
  const empty = async () => {
    await client.query(`TRUNCATE ${SCHEMA}.loan CASCADE`);
    await client.query(`VACUUM ANALYZE ${SCHEMA}.exhibition`);
  };
  const figure = await compare({
    work: 'import of 1,000,000 records with five roll-ups over them',
    ...{ must: 1.5, goal: 1.3, rounds: 3, warmUp: 0 },
    ours: async () => {
      await empty();
      return timed(() => importRecords({ ...by, type: 'loan', records: records() }));
    },
    theirs: async () => {
      await empty();
      return timed(() =>
        pipeline(
          Readable.from(lines()),
          client.query(
            copyFrom(`COPY ${SCHEMA}.loan (id, created_run, changed_run, ${COLUMNS.join(', ')}) FROM STDIN`),
          ),
        ),
      );
    },
  });
  await client.end();
  return [figure];
}
