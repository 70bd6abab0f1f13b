import { fieldIn, typeIn } from '@/core/model';
import { certain, Decimal, round, shiftDay } from '@/core/values';
import { v7 as newId } from 'uuid';
import type { WireEdit } from '@/core/engine';
import { simulatedRates } from '@/standins/simulated-rates';
import type { RateOfDay, RateService } from '@/server/rate-service';
import { Refusal } from '@/server/refusal';
import { serviceNamed } from '@/server/service-named';
import { columnOf, run, tableOf } from '@/server/store/sql/sql';
import { checkPerson } from '@/server/queries/workspaces/people';
import { inSnapshot } from '@/server/store/session/transactions';
import { type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { saveEdits } from './save-edits';

const SERVICES: readonly RateService[] = [simulatedRates];

/** The service that the installation names in OIKON_RATE_SERVICE; `null` where it names none. Refuses one that isn't there. */
export const rateService = (): RateService | null => serviceNamed('OIKON_RATE_SERVICE', SERVICES);

export interface FetchedRates {
  readonly run: string | null;
  readonly made: number;
}

/** How many days back rates are asked for, where they aren't there yet. */
const DAYS_BACK = 30;

/** The days up to one, the earliest first. */
const daysUpTo = (day: string): string[] =>
  Array.from({ length: DAYS_BACK }, (_, at) => at + 1 - DAYS_BACK).flatMap(
    (back) => shiftDay(day, back) ?? [],
  );

/**
 * Adds the rates of the last 30 days up to the settled day that a workspace doesn't have yet, as one run: what needs them follows. Rates that
 * are there stay as they are. `person` is `null` where Oikon itself asks.
 */
export async function fetchRates(input: {
  readonly workspace: string;
  readonly person: string | null;
  readonly service?: RateService;
}): Promise<FetchedRates> {
  const service = input.service ?? rateService();
  if (!service)
    throw new Refusal(
      409,
      'rates.service',
      'No rate service is set up. Enter rates by hand or import them, or set OIKON_RATE_SERVICE.',
    );
  const workspace = await loadWorkspace(input.workspace);
  if (input.person !== null) checkPerson(workspace, input.person);
  const { rates } = workspace.model;
  if (!rates)
    throw new Refusal(
      409,
      'rates.type',
      'No type holds rates of currencies. In Model, change the type that is to hold them.',
    );
  const known = await knownRates(workspace);
  const found: RateOfDay[] = [];
  for (const day of daysUpTo(workspace.settledDay)) found.push(...(await service.ratesOn(day)));
  const edits = found
    .filter(({ pair, day }) => !known.has(`${pair} ${day}`))
    .map((rate): WireEdit => ({
      kind: 'create',
      type: rates.type,
      id: newId(),
      values: valuesOf(workspace, rate),
    }));
  if (edits.length === 0) return { run: null, made: 0 };
  const { person } = input;
  const note = `Rates by the ${service.name} service`;
  const saved = await saveEdits({ workspace: input.workspace, person, edits, note });
  return { run: saved.run, made: edits.length };
}

function valuesOf({ model }: LoadedWorkspace, { pair, day, rate }: RateOfDay): Record<string, unknown> {
  const fields = certain(model.rates);
  const { title } = typeIn(model, fields.type);
  const { type } = fieldIn(model, fields.type, fields.rate);
  const places = type.kind === 'number' ? type.scale : 0;
  const digits = round(new Decimal(rate), { mode: 'nearest', places }).toFixed();
  return {
    ...(title === fields.pair ? {} : { [title]: `${pair} ${day}` }),
    ...{ [fields.pair]: pair, [fields.day]: day, [fields.rate]: digits },
  };
}

function knownRates({ model, schema }: LoadedWorkspace): Promise<Set<string>> {
  const { type, pair, day } = certain(model.rates);
  return inSnapshot(async (transaction) => {
    const rows = await run<{ pair: string; day: string }>(
      transaction,
      `SELECT ${columnOf(pair)} AS pair, ${columnOf(day)}::text AS day FROM ${tableOf(schema, type)} WHERE deleted_run IS NULL`,
    );
    return new Set(rows.map((row) => `${row.pair} ${row.day}`));
  });
}
