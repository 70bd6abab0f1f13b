import { canonical } from '@/core/basics/canonical';
import type { MadeFor } from '@/core/engine';
import type { OptionList, RecordType, Selection } from '@/core/model';
import type { Pilot, RuleDefinition, RuleState } from '@/core/rules';
import { bad, good, type Result, type WireValue } from '@/core/values';

export const BUNDLE_FORMAT = 'oikon.bundle';
/** Raised when a section is added or comes to mean something else. */
export const BUNDLE_VERSION = 2;

export interface BundleRule {
  readonly id: string;
  readonly name: string;
  /** Left out where a person named it: else its name follows what it says. */
  readonly isNamed?: false;
  readonly note: string;
  /** Left out where it has none. */
  readonly tags?: readonly string[];
  readonly state: RuleState;
  /** The latest version. */
  readonly definition: RuleDefinition;
  /** Of a live rule that was changed since: what is live. */
  readonly live?: RuleDefinition;
  /** Of a live rule that runs for some records only. */
  readonly pilot?: Pilot;
  /** Of a pilot that runs beside what is live: what is tried. */
  readonly tried?: RuleDefinition;
}

/** A proof of one of the bundle's rules; its content as `Proof` has it. */
export interface BundleProof {
  readonly id: string;
  readonly rule: string;
  readonly name: string;
  readonly family: unknown;
  readonly day: string;
  readonly people: readonly string[];
  readonly runs: readonly unknown[];
  readonly settings?: readonly unknown[];
  readonly expectations: readonly unknown[];
}

/** What a colleague asked for. Proofs are named by their rules and names, since an import may give them other ids. */
export interface BundleRequest {
  readonly name: string;
  readonly askedBy: string;
  readonly words: string;
  readonly due: string | null;
  readonly points: readonly {
    readonly text: string;
    readonly proofs: readonly { readonly rule: string; readonly name: string }[];
  }[];
  /** Ids of the bundle's rules. */
  readonly rules: readonly string[];
}

export interface BundleRecord {
  readonly type: string;
  readonly id: string;
  /** Values as the API has them; what is empty, and what live rules keep, is left out. */
  readonly values: Readonly<Record<string, WireValue>>;
  /** Of a record that create rules made: by which of the bundle's rules, and for which of its records. */
  readonly madeFor?: readonly MadeFor[];
}

/** A workspace as one file: everything that was made in it, without its history. */
export interface Bundle {
  readonly format: typeof BUNDLE_FORMAT;
  readonly version: number;
  readonly workspace: { readonly name: string; readonly timeZone: string; readonly settledDay: string };
  readonly people: readonly {
    readonly id: string;
    readonly name: string;
    readonly email: string;
    readonly role: string;
  }[];
  readonly optionLists: readonly OptionList[];
  readonly types: readonly RecordType[];
  readonly selections: readonly Selection[];
  readonly lists: readonly { readonly name: string; readonly definition: unknown }[];
  readonly rules: readonly BundleRule[];
  readonly families: readonly { readonly name: string; readonly note: string; readonly data: unknown }[];
  /** By rule, then by name. A bundle of version 1 has none. */
  readonly proofs: readonly BundleProof[];
  /** By name. A bundle of version 1 has none. */
  readonly requests: readonly BundleRequest[];
  readonly records?: readonly BundleRecord[];
}

export type BundleHead = Omit<Bundle, 'records'>;

const SECTIONS = [
  'people',
  'optionLists',
  'types',
  'selections',
  'lists',
  'rules',
  'families',
  'proofs',
  'requests',
] as const;

/**
 * A bundle's text, piece by piece: one thing a line, in an order that doesn't depend on when anything was made, so that two bundles can
 * be compared line by line. The records' order is that in which they are given: by type, then id.
 */
export async function* bundleText(
  head: BundleHead,
  records: AsyncIterable<BundleRecord> | null,
): AsyncGenerator<string> {
  yield `{\n"format":${JSON.stringify(head.format)},\n"version":${head.version},\n"workspace":${canonical(head.workspace)}`;
  for (const section of SECTIONS) yield `,\n"${section}":${linesOf(head[section])}`;
  if (records) {
    yield ',\n"records":[';
    let isFirst = true;
    for await (const record of records) {
      yield `${isFirst ? '\n' : ',\n'}${canonical(record)}`;
      isFirst = false;
    }
    yield isFirst ? ']' : '\n]';
  }
  yield '\n}\n';
}

const linesOf = (of: readonly unknown[]): string =>
  of.length === 0 ? '[]' : `[\n${of.map(canonical).join(',\n')}\n]`;

/** What stands at the head of a bundle. Refuses, by what it is, a file that isn't one, is damaged, or of a newer version. */
export function openBundle(text: string): Result<Record<string, unknown>> {
  let value: unknown;
  try {
    value = JSON.parse(text.replace(/^\ufeff/, ''));
  } catch (error) {
    const message = `The file is damaged or isn’t a bundle: ${(error as Error).message}. Export it again.`;
    return bad('bundle.damaged', message);
  }
  const found = (typeof value === 'object' && value !== null ? value : {}) as Record<string, unknown>;
  if (found.format !== BUNDLE_FORMAT)
    return bad(
      'bundle.format',
      `Expected a bundle (“format”: “${BUNDLE_FORMAT}”), found another kind of file. Choose one that Oikon exported.`,
    );
  if (typeof found.version !== 'number' || !Number.isInteger(found.version) || found.version < 1)
    return bad('bundle.damaged', 'The bundle doesn’t say its version. Export it again.');
  if (found.version > BUNDLE_VERSION) {
    const message = `The bundle is of version ${found.version}, and this Oikon reads bundles up to version ${BUNDLE_VERSION}. Bring Oikon up to date, then import it.`;
    return bad('bundle.newer', message);
  }
  return good(found);
}
