import {
  DATE_ORDERS,
  DECIMAL_MARKS,
  type Form,
  GROUPING_MARKS,
  type FileForms,
  firstIn,
  PLAIN_FORMS,
} from '@/core/values';
import {
  APPROVED,
  type NewToken,
  type OwnRole,
  RIGHTS,
  type TwoPeopleKind,
  type UnfinishedContent,
} from '@/core/api';
import type { WireEdit } from '@/core/engine';
import type { Expression } from '@/core/expression';
import { type Bundle, type ImportColumn, type ImportPlan } from '@/core/intake';
import type { ModelChange, Own, RoleAccess, TypeAccess } from '@/core/model';
import type { Pilot, RuleDefinition } from '@/core/rules';
import Joi from 'joi';
import { MOST_EDITS } from '@/server/limits';
import { Refusal, type RefusedPart } from '@/server/refusal';
import type {
  Decision,
  NewRecordBody,
  RecordPatch,
  RehearsalBody,
  RuleBody,
  RulePatch,
  SeenEdit,
  WhereMany,
  SavedListEdit,
  ListEditInput,
  MergeInput,
  WorkspaceInput,
  ProofPatch,
  NewProof,
  RequestPatch,
  RequestInput,
  Agreement,
  NewFamily,
  FamiliesBy,
  SavedListInput,
  UnfinishedInput,
  GroupInput,
} from './types';
import { bundleShape, familyData, savedList } from './bundle';
import { modelChanges } from './model';
import { canBeKept, day, id, kept, key, name, note, oneOf, shape, tags, values, version } from './parts';
import { edit, expectations, madeFor, runs, savedEdit, seenVersion, settings } from './proofs';
import { agreement, newRequest, requestPatch } from './requests';
import { definition, pilot } from './rules';
import { expression } from './expression';

/** The same as the engine takes it: without a version nothing is compared. */
export const asSeen = ({ version, ...edit }: SeenEdit): WireEdit =>
  version === undefined || version === '*' ? edit : { ...edit, version };

const listEdit = {
  search: kept.max(200).allow(''),
  condition: expression,
  values: values.min(1).required(),
};

/** How numbers and dates are written. */
const form = shape<Form>({
  decimal: Joi.valid(...DECIMAL_MARKS).required(),
  grouping: Joi.valid(...GROUPING_MARKS)
    .invalid(Joi.ref('decimal'))
    .required(),
  dates: Joi.valid(...DATE_ORDERS).required(),
});

/** What only its owner knows: taken as it is typed, and never told in a refusal. */
const secretText = Joi.string().min(1).max(500).required();

/** The key of a role that every workspace has, or the id of one of its own: whether there is such a role is looked up. */
const access = Joi.string().min(1).max(40);
const rights = Joi.array()
  .items(Joi.valid(...Object.keys(RIGHTS)).required())
  .unique()
  .required();
const webAuthn = Joi.object({ id: Joi.string().max(2_000).required() })
  .unknown(true)
  .required();
const may = Joi.boolean().default(true);
const called = Joi.string().trim().min(1).max(60);
const group = {
  name: called,
  claim: Joi.string().trim().min(1).max(200).allow(null),
  members: Joi.array().items(Joi.string().uuid()).max(10_000).unique(),
};

const email = Joi.string().trim().max(254).email({ tlds: false }).required();

const markedRules = Joi.array().items(id.required()).min(1).max(500).unique().required();

const many = oneOf<WhereMany>({ now: true, ask: true, soonAfter: true });

/** An object by its keys; of what may be several things the form stands by itself. */
type Schema<T> = Joi.ObjectSchema<T> | Joi.AlternativesSchema;

const SCHEMAS: { readonly [K in keyof Inputs]: Schema<Inputs[K]> } = {
  newRecord: shape<Inputs['newRecord']>({ values: values.required(), id, madeFor }),
  recordPatch: shape<Inputs['recordPatch']>({
    values: values.required(),
    version: seenVersion.required(),
    many,
  }),
  queueDecision: shape<Inputs['queueDecision']>({ decision: Joi.valid('again', 'drop').required() }),
  changes: shape<Inputs['changes']>({
    edits: Joi.array().items(savedEdit).max(MOST_EDITS).min(1).required(),
    ...{ note, many },
  }),
  newRule: shape<Inputs['newRule']>({ definition: definition.required(), name, note, tags }),
  rulePatch: shape<Inputs['rulePatch']>({ version: version.required(), definition, name, note, tags }),
  condition: expression,
  rulesLive: shape<Inputs['rulesLive']>({
    rules: markedRules,
    reason: note,
  }),
  rulesMarked: shape<Inputs['rulesMarked']>({ rules: markedRules }),
  ruleTags: shape<Inputs['ruleTags']>({ rules: markedRules, add: tags, remove: tags }),
  modelRehearsal: shape<Inputs['modelRehearsal']>({ changes: modelChanges }),
  modelChange: shape<Inputs['modelChange']>({
    ...{ changes: modelChanges, version: version.required(), note, othersAct: Joi.boolean() },
  }),
  importPlan: shape<Inputs['importPlan']>({
    format: Joi.valid('csv', 'jsonLines').required(),
    encoding: Joi.valid('utf-8', 'utf-16le', 'windows-1252').default('utf-8'),
    separator: Joi.valid(',', ';', '\t', '|').default(','),
    forms: shape<Omit<FileForms, 'currency'>>({
      decimal: Joi.valid('.', ',').default('.'),
      dates: Joi.valid('dayFirst', 'monthFirst').default('dayFirst'),
      timeZone: Joi.string().max(60).default('UTC'),
    }).default(PLAIN_FORMS),
    columns: Joi.array()
      .items(
        shape<ImportColumn>({
          ...{
            column: kept.allow('').max(1_000).required(),
            field: key.required(),
            foundBy: key,
            clears: Joi.boolean(),
          },
        }),
      )
      .max(400)
      .required(),
    key: Joi.array().items(key).max(5).unique().default([]),
    notFound: Joi.valid('make', 'refuse'),
    refused: Joi.valid('stop', 'leaveOut').default('stop'),
  }),
  unfinishedRule: shape<Inputs['unfinishedRule']>({
    id: Joi.string().guid(),
    rule: Joi.string().guid().allow(null).required(),
    name: kept.allow('').max(80).required(),
    note: note.required(),
    content: shape<UnfinishedContent>({
      kind: Joi.valid('rollUp', 'formula', 'cascade', 'create', 'link').required(),
      of: Joi.object().unknown().required(),
    }).required(),
  }),
  newList: shape<Inputs['newList']>({ name: name.required(), definition: savedList.required() }),
  listPatch: shape<Inputs['listPatch']>({ version: version.required(), name, definition: savedList }),
  bundle: bundleShape,
  bundleRecords: shape<Inputs['bundleRecords']>({ records: bundleShape.extract('records').required() }),
  merge: shape<Inputs['merge']>({
    bundle: Joi.string().required(),
    chosen: Joi.array().items(Joi.string().max(300)).max(5_000).unique().required(),
  }),
  mergeApply: shape<Inputs['mergeApply']>({
    bundle: Joi.string().required(),
    chosen: Joi.array().items(Joi.string().max(300)).max(5_000).unique().required(),
    version: version.required(),
  }),
  newFamily: Joi.alternatives(
    shape<NewFamily>({
      ...{ name: name.required(), note, root: Joi.object({ type: key.required(), id: id.required() }) },
      links: Joi.array().items(Joi.string().max(121)).max(300),
      data: familyData,
    }).xor('root', 'data'),
    shape<FamiliesBy>({ name: name.required(), type: key.required(), field: key.required(), selection: key }),
  ),
  newProof: shape<Inputs['newProof']>({
    ...{ rule: id.required(), name: name.required(), family: familyData.required(), day },
    runs: runs.required(),
    settings,
    expectations: expectations.required(),
  }),
  proofPatch: shape<Inputs['proofPatch']>({ version: version.required(), name, expectations }),
  ...{ newRequest, requestPatch, agreement },
  newWorkspace: shape<Inputs['newWorkspace']>({
    name: name.required(),
    copyOf: Joi.string().max(40),
    withRecords: Joi.boolean(),
    timeZone: Joi.string().max(60),
  }),
  workspacePatch: shape<Inputs['workspacePatch']>({ name, form }).or('name', 'form'),
  personPatch: shape<Inputs['personPatch']>({ form: form.allow(null).required() }),
  newMember: shape<Inputs['newMember']>({
    ...{ name: Joi.string().trim().min(1).max(200).required(), email },
    ...{ role: Joi.string().trim().max(200).allow('').default(''), access: access.required() },
  }),
  memberPatch: shape<Inputs['memberPatch']>({ access: access.allow(null).required() }),
  roleAccess: shape<Inputs['roleAccess']>({
    access: Joi.object()
      .pattern(
        Joi.string().max(60),
        shape<TypeAccess>({
          ...{ see: may, add: may, change: may, delete: may, export: may },
          fields: Joi.object().pattern(Joi.string().max(60), Joi.valid('hidden', 'seen')).default({}),
          selection: Joi.string().max(60).allow(null).default(null),
          own: shape<Own>({ route: Joi.array().items(key).max(6).required(), field: key.required() })
            .allow(null)
            .default(null),
          where: expression.allow(null).default(null),
        }),
      )
      .required(),
  }),
  twoPeople: shape<Inputs['twoPeople']>({
    kinds: Joi.array()
      .items(Joi.valid(...Object.keys(APPROVED)))
      .unique()
      .required(),
  }),
  newApproval: shape<Inputs['newApproval']>({
    route: Joi.string().max(60).required(),
    body: Joi.object().unknown(true).required(),
    note,
  }),
  approvalDecision: shape<Inputs['approvalDecision']>({
    decision: Joi.valid('approve', 'refuse', 'withdraw').required(),
    reason: note,
  }),
  newService: shape<Inputs['newService']>({ name: called.required(), access: access.required() }),
  serviceToken: shape<Inputs['serviceToken']>({
    name: Joi.string().trim().min(1).max(100).required(),
    rights,
    days: Joi.number().integer().min(1).max(366).required(),
  }),
  secondStepRoles: shape<Inputs['secondStepRoles']>({
    roles: Joi.array().items(access).max(100).unique().required(),
  }),
  ownRole: shape<Inputs['ownRole']>({ name: called.required(), rights }),
  newGroup: shape<Inputs['newGroup']>({ ...group, name: called.required() }),
  groupPatch: shape<Inputs['groupPatch']>(group),
  groupAccess: shape<Inputs['groupAccess']>({ access: access.allow(null).required() }),
  signIn: shape<Inputs['signIn']>({
    ...{ email: Joi.string().max(254).required(), password: secretText },
    code: Joi.string().max(40),
  }),
  forgotten: shape<Inputs['forgotten']>({ email: Joi.string().max(254).required() }),
  code: shape<Inputs['code']>({ code: Joi.string().min(1).max(40).required() }),
  passkeyShown: shape<Inputs['passkeyShown']>({ response: webAuthn }),
  newPasskey: shape<Inputs['newPasskey']>({
    ...{ name: Joi.string().trim().min(1).max(100).required(), response: webAuthn },
  }),
  oneTime: shape<Inputs['oneTime']>({ secret: secretText }),
  firstAdministrator: shape<Inputs['firstAdministrator']>({
    ...{ secret: secretText, password: secretText },
    ...{ name: Joi.string().trim().min(1).max(200).required(), email },
  }),
  newToken: shape<Inputs['newToken']>({
    name: Joi.string().trim().min(1).max(100).required(),
    rights,
    workspaces: Joi.array().items(Joi.string().max(40).required()).min(1).max(200).unique().required(),
    days: Joi.number().integer().min(1).max(366).required(),
  }),
  ownPassword: shape<Inputs['ownPassword']>({ password: secretText, next: secretText }),
  newPassword: shape<Inputs['newPassword']>({ secret: secretText, password: secretText }),
  workspaceRemoval: shape<Inputs['workspaceRemoval']>({ confirmation: kept.max(200).allow('').required() }),
  listEditRehearsal: shape<Inputs['listEditRehearsal']>(listEdit),
  listEdit: shape<Inputs['listEdit']>({
    ...listEdit,
    expected: Joi.number().integer().min(0).required(),
    note,
  }),
  ruleState: shape<Inputs['ruleState']>({
    state: Joi.valid('live', 'paused', 'retired').required(),
    actsOnMatching: Joi.boolean(),
    othersAct: Joi.boolean(),
    reason: note,
    pilot,
    endsPilot: Joi.valid(true).when('state', { is: 'live', otherwise: Joi.forbidden() }),
  }).oxor('endsPilot', 'pilot'),
  livePreview: shape<Inputs['livePreview']>({ pilot }),
  ruleReview: shape<Inputs['ruleReview']>({ definition: definition.required() }),
  decisions: shape<Inputs['decisions']>({
    decisions: Joi.array()
      .items(
        Joi.object({
          ...{
            id: Joi.string().max(20).required(),
            decision: Joi.valid('approve', 'refuse', 'seen').required(),
          },
          values: values.when('decision', { is: 'approve', otherwise: Joi.forbidden() }),
          reason: kept
            .min(1)
            .max(1_000)
            .when('decision', { is: 'refuse', then: Joi.required(), otherwise: Joi.forbidden() }),
        }),
      )
      .min(1)
      .max(200)
      .required(),
  }),
  rehearsal: shape<Inputs['rehearsal']>({
    edits: Joi.array()
      .items(edit.keys({ version: seenVersion }))
      .max(MOST_EDITS)
      .default([]),
    drafts: Joi.array()
      .items(Joi.object({ id, name, definition: definition.required() }))
      .max(50)
      .default([]),
  }),
};

export interface Inputs {
  newRecord: NewRecordBody;
  recordPatch: RecordPatch;
  queueDecision: { readonly decision: 'again' | 'drop' };
  changes: {
    readonly edits: readonly SeenEdit[];
    readonly note?: string;
    readonly many?: WhereMany;
  };
  newRule: RuleBody;
  rulePatch: RulePatch;
  condition: Expression;
  rulesLive: { readonly rules: readonly string[]; readonly reason?: string };
  rulesMarked: { readonly rules: readonly string[] };
  ruleTags: {
    readonly rules: readonly string[];
    readonly add?: readonly string[];
    readonly remove?: readonly string[];
  };
  modelRehearsal: { readonly changes: readonly ModelChange[] };
  modelChange: {
    readonly changes: readonly ModelChange[];
    readonly version: number;
    readonly note?: string;
    readonly othersAct?: boolean;
  };
  importPlan: ImportPlan;
  unfinishedRule: UnfinishedInput;
  newList: SavedListInput;
  listPatch: Partial<SavedListInput> & { readonly version: number };
  bundle: Bundle;
  bundleRecords: { readonly records: NonNullable<Bundle['records']> };
  merge: MergeInput;
  mergeApply: MergeInput & { readonly version: number };
  newFamily: NewFamily | FamiliesBy;
  newProof: NewProof;
  proofPatch: ProofPatch;
  newRequest: RequestInput;
  requestPatch: RequestPatch;
  agreement: Agreement;
  newWorkspace: WorkspaceInput;
  workspacePatch: { readonly name?: string; readonly form?: Form };
  personPatch: { readonly form: Form | null };
  newMember: {
    readonly name: string;
    readonly email: string;
    readonly role: string;
    readonly access: string;
  };
  memberPatch: { readonly access: string | null };
  roleAccess: { readonly access: RoleAccess };
  twoPeople: { readonly kinds: readonly TwoPeopleKind[] };
  /** What was asked of a route, which somebody else approves: read as that route reads it. */
  newApproval: { readonly route: string; readonly body: object; readonly note?: string };
  approvalDecision: { readonly decision: 'approve' | 'refuse' | 'withdraw'; readonly reason?: string };
  newService: { readonly name: string; readonly access: string };
  serviceToken: Omit<NewToken, 'workspaces'>;
  secondStepRoles: { readonly roles: readonly string[] };
  ownRole: OwnRole;
  newGroup: GroupInput & { readonly name: string };
  groupPatch: GroupInput;
  groupAccess: { readonly access: string | null };
  signIn: { readonly email: string; readonly password: string; readonly code?: string };
  forgotten: { readonly email: string };
  code: { readonly code: string };
  /** What a browser gives of a key, as WebAuthn writes it: looked at by whoever checks it. */
  passkeyShown: { readonly response: object };
  newPasskey: { readonly name: string; readonly response: object };
  oneTime: { readonly secret: string };
  firstAdministrator: {
    readonly secret: string;
    readonly name: string;
    readonly email: string;
    readonly password: string;
  };
  newToken: NewToken;
  ownPassword: { readonly password: string; readonly next: string };
  newPassword: { readonly secret: string; readonly password: string };
  workspaceRemoval: { readonly confirmation: string };
  listEditRehearsal: Omit<ListEditInput, 'workspace' | 'person' | 'type' | 'tell'>;
  listEdit: Omit<SavedListEdit, 'workspace' | 'person' | 'type' | 'tell'>;
  ruleState: {
    readonly state: 'live' | 'paused' | 'retired';
    readonly actsOnMatching?: boolean;
    readonly othersAct?: boolean;
    readonly reason?: string;
    readonly pilot?: Pilot | null;
    readonly endsPilot?: boolean;
  };
  livePreview: { readonly pilot?: Pilot | null };
  ruleReview: { readonly definition: RuleDefinition };
  decisions: { readonly decisions: readonly Decision[] };
  rehearsal: RehearsalBody;
}

/** Checks the shape of what came in. Refuses with every part that doesn't fit, by its path. */
export function readInput<K extends keyof Inputs>(kind: K, input: unknown): Inputs[K] {
  const { error, value } = SCHEMAS[kind].validate(input, {
    abortEarly: false,
    convert: false,
    errors: { wrap: { label: '"' } },
  });
  if (!error) {
    checkCharacters(value, '', WITH_ROWS.has(kind));
    return value as Inputs[K];
  }
  const parts = error.details.map((detail): RefusedPart => ({
    code: 'input.shape',
    place: detail.path.join('.'),
    message: `${detail.message}${foundKind(detail)}.`,
  }));
  const message = `The request doesn’t have the expected form: ${firstIn(parts).message} Correct it and send it again.`;
  throw new Refusal(400, 'input.shape', message, parts);
}

/** Which kind was found where it isn't one of those that there are. */
function foundKind({ type, context }: Joi.ValidationErrorItem): string {
  const value = context?.value as { readonly kind?: unknown } | undefined;
  if (type !== 'any.unknown' || typeof value !== 'object' || value === null) return '';
  return `, found ${value.kind === undefined ? 'none' : JSON.stringify(value.kind).slice(0, 60)}`;
}

/** Bodies that hold whole records, which are kept as they are. Elsewhere values are read by the core, which says more of them. */
const WITH_ROWS: ReadonlySet<string> = new Set(['bundle', 'bundleRecords', 'newFamily', 'newProof']);

/** Refuses texts that PostgreSQL can't hold, wherever they stand: NUL, and half of a surrogate pair. */
function checkCharacters(value: unknown, path: string, hasRows: boolean): void {
  if (typeof value === 'string') {
    if (canBeKept(value)) return;
    const place = path === '' ? 'The body' : `“${path}”`;
    const message = `${place} holds a character that can’t be kept (NUL, or half of a surrogate pair). Remove it and send it again.`;
    throw new Refusal(400, 'input.character', message, [{ code: 'input.character', place: path, message }]);
  }
  if (typeof value !== 'object' || value === null) return;
  for (const [key, of] of Object.entries(value)) {
    if (key === 'values' && !hasRows) continue;
    const at = path === '' ? key : `${path}.${key}`;
    checkCharacters(key, at, hasRows);
    checkCharacters(of, at, hasRows);
  }
}
