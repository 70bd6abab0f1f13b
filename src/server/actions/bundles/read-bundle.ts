import { checkSectionConditions, checkSelections } from '@/core/expression';
import { type Bundle, type BundleHead, openBundle } from '@/core/intake';
import { checkModel, type Model, readModel } from '@/core/model';
import { buildPlan } from '@/core/plan';
import { parseValue, type Problem } from '@/core/values';
import { isTimeZone, notATimeZone } from '@/server/day';
import { refuse, Refusal } from '@/server/refusal';
import { Slices } from '@/server/slices';
import { readInput } from '@/server/forms/input';
import { listProblems } from '@/server/actions/records/saved-lists';
import { type SavedListInput } from '@/server/forms/types';

/** Most bytes of a bundle that is read. */
export const MOST_BUNDLE = 64_000_000;

/** So many records are read before others have their turn. */
const AT_ONCE = 200;

/** Reads a bundle: its form, then its model, selections, rules and lists. Refuses it whole with everything that is wrong. */
export async function readBundle(text: string): Promise<Bundle> {
  const opened = openBundle(text);
  if (!opened.ok) throw refuse(422, [opened.problem]);
  const bundle = await readForm(opened.value);
  const wrong = headProblems(bundle);
  if (wrong.length > 0) throw refuse(422, wrong);
  const own = checkModel(definitionOf(bundle));
  if (own.length > 0) throw refuse(422, own);
  const model = modelOf(bundle);
  const problems: Problem[] = [
    ...checkSelections(model),
    ...checkSectionConditions(model),
    ...planProblems(model, bundle),
    ...bundle.lists.flatMap(({ name, definition }) =>
      listProblems(model, definition as SavedListInput['definition']).map((problem) => ({
        ...{ ...problem, place: `list ${name}` },
        message: `The list “${name}”: ${problem.message}`,
      })),
    ),
  ];
  problems.push(...proofProblems(bundle), ...requestProblems(bundle));
  if (problems.length > 0) throw refuse(422, problems);
  return bundle;
}

/** The form of a bundle. It may hold very many records: these are read in slices. */
async function readForm(value: Record<string, unknown>): Promise<Bundle> {
  const { records } = value;
  if (!Array.isArray(records)) return readInput('bundle', value);
  const bundle = readInput('bundle', { ...value, records: [] });
  const slices = new Slices();
  const read: NonNullable<Bundle['records']>[number][] = [];
  for (let from = 0; from < records.length; from += AT_ONCE) {
    read.push(...readRecordsFrom(records.slice(from, from + AT_ONCE), from));
    await slices.rest();
  }
  return { ...bundle, records: read };
}

function readRecordsFrom(records: readonly unknown[], from: number) {
  try {
    return readInput('bundleRecords', { records }).records;
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    // They are counted from the first of all.
    const counted = (words: string) =>
      words.replace(
        /\brecords([[.])(\d+)/g,
        (_, sign: string, at: string) => `records${sign}${Number(at) + from}`,
      );
    const parts = error.parts.map((part) => ({
      ...part,
      message: counted(part.message),
      ...(part.place === undefined ? {} : { place: counted(part.place) }),
    }));
    throw new Refusal(error.status, error.code, counted(error.message), parts, error.data);
  }
}

/** Its clock must be one that is there, and no two of its people may have one e-mail. */
function headProblems({ workspace: { timeZone }, people }: Bundle): Problem[] {
  const message = notATimeZone(timeZone);
  const emails = new Set<string>();
  const zone: Problem = { code: 'bundle.timeZone', place: 'workspace.timeZone', message };
  return [
    ...(isTimeZone(timeZone) ? [] : [zone]),
    ...people.flatMap(({ email }): Problem[] => {
      const isTwice = emails.has(email.toLowerCase());
      emails.add(email.toLowerCase());
      const words = `Two people of the bundle have the e-mail ${email}, by which people are known. Correct it.`;
      return isTwice ? [{ code: 'bundle.person', place: `people ${email}`, message: words }] : [];
    }),
  ];
}

/** A proof is of one of the bundle's rules, and has a name of its own among that rule's. */
function proofProblems({ rules, proofs }: Bundle): Problem[] {
  const ids = new Set(rules.map(({ id }) => id));
  const names = new Set<string>();
  return proofs.flatMap(({ rule, name }): Problem[] => {
    const place = `proof ${name}`;
    const key = `${rule} ${name.toLowerCase()}`;
    if (!ids.has(rule)) {
      const message = `The proof “${name}” is of a rule ${rule} that the bundle doesn’t have. Export it again.`;
      return [{ code: 'bundle.proof', place, message }];
    }
    if (names.has(key)) {
      const message = `A rule has two proofs “${name}”. Give one of them another name.`;
      return [{ code: 'bundle.proof', place, message }];
    }
    names.add(key);
    return [];
  });
}

/** A request's rules are the bundle's. */
function requestProblems({ rules, requests }: Bundle): Problem[] {
  const ids = new Set(rules.map(({ id }) => id));
  return requests.flatMap(({ name, rules: own, due }): Problem[] => {
    const place = `request ${name}`;
    const lost = own.find((id) => !ids.has(id));
    const message = `The request “${name}” names a rule ${lost} that the bundle doesn’t have. Export it again.`;
    const isDay = due === null || parseValue({ kind: 'date' }, due).ok;
    const dueMessage = `The request “${name}” is wanted by ${due}, which is no day of the calendar. Correct it.`;
    const wrong = [...(lost === undefined ? [] : [message]), ...(isDay ? [] : [dueMessage])];
    return wrong.map((words) => ({ code: 'bundle.request', place, message: words }));
  });
}

export const definitionOf = ({ types, optionLists: lists, selections }: BundleHead) => ({
  types,
  lists,
  selections,
});

export const modelOf = (bundle: BundleHead): Model =>
  readModel({ ...definitionOf(bundle), timeZone: bundle.workspace.timeZone }, bundle.workspace.settledDay);

export const liveOf = (bundle: BundleHead) =>
  bundle.rules
    .filter(({ state }) => state === 'live')
    .map(({ id, name, definition, live, pilot, tried }) => ({
      ...{ id, version: id, name, definition: tried ?? live ?? definition },
      ...(pilot ? { pilot } : {}),
      ...(tried ? { beside: { version: id, definition: live ?? definition } } : {}),
    }));

const planProblems = (model: Model, bundle: BundleHead) =>
  buildPlan(model, liveOf(bundle)).problems.map((problem) => {
    const name = bundle.rules.find(({ id }) => id === problem.rule)?.name ?? problem.rule;
    return { ...problem, message: `The rule “${name}”: ${problem.message}` };
  });
