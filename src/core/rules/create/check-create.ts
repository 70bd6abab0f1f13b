import { type Expression, type Typed, typeCondition } from '@/core/expression';
import { type Field, fieldIn, type Model, type RecordType } from '@/core/model';
import { type ProblemCode, parseValue, type Problem, sameValue, type Value } from '@/core/values';
import type { AssignedValue, Assignment } from '@/core/rules/cascade/cascade';
import { cantTake, checkAssigned } from '@/core/rules/cascade/check-assigned';
import { checkTarget, finding, typedPart } from '@/core/rules/shared/check-target';
import {
  type CompiledAssigned,
  type CompiledCreate,
  type CompiledExecutionMode,
  type Create,
  type ExecutionMode,
  type ExecutionModeBy,
  executionModesOf,
} from './create';
import { checkTimes } from '@/core/rules/pace';
import { ReadPaths } from '@/core/rules/shared/read-paths';
import type { Rule } from '@/core/rules/rule';
import { isExact, partsIn } from './create-parts';

/** The parts of a create rule's sentence at which a finding may point; those of an assignment by its number. */
export type CreatePart =
  | 'type'
  | 'condition'
  | 'pace'
  | 'each'
  | 'makes'
  | 'links'
  | 'assignments'
  | 'gives'
  | 'making'
  | 'following'
  | 'returning'
  | 'afterwards'
  | 'tells';

export type CompiledAsCreate =
  | { readonly ok: true; readonly rule: CompiledCreate }
  | { readonly ok: false; readonly problems: readonly Problem[] };

const MOST_ASSIGNMENTS = 40;

/**
 * Checks a create rule against the model and types it. Refuses, with a finding for each part of the sentence: types, fields and links that
 * don't exist, values of other kinds than their fields, required fields that nothing gives, and ways that can't be gone.
 */
export function compileCreate(model: Model, rule: Rule<Create>): CompiledAsCreate {
  const checker = new CreateChecker(model, rule);
  const compiled = checker.compile();
  return compiled && checker.problems.length === 0
    ? { ok: true, rule: compiled }
    : { ok: false, problems: checker.problems };
}

class CreateChecker {
  readonly problems: Problem[] = [];

  constructor(
    private readonly model: Model,
    private readonly rule: Rule<Create>,
  ) {}

  compile(): CompiledCreate | null {
    const { id, version, name, definition } = this.rule;
    const source = this.model.type(definition.type);
    if (!source) return this.say('type', 'rule.type', 'Choose the type of record for which one is made.');
    const makes = this.model.type(definition.makes);
    if (!makes) return this.say('makes', 'rule.type', 'Choose what is made.');
    const where = this.condition(source, definition.condition);
    this.pace();
    this.links(source, makes);
    const assigned = this.assigned(source, makes);
    const given = this.given(source, makes);
    this.required(makes);
    const making = this.way('making', source, definition.making);
    const following = this.way('following', source, definition.following);
    const returning = this.way('returning', source, definition.returning);
    this.ways({ making, following, returning }, assigned);
    const marks = this.marks(makes);
    return {
      ...{
        kind: 'create',
        id,
        version,
        name,
        definition,
        where,
        assigned,
        given,
        making,
        following,
        returning,
        marks,
      },
      ...{ writes: { type: source.key, field: definition.forward ?? '' }, makes: makes.key, rates: null },
      reads: this.reads(source, where, assigned, [making, following, returning]),
      pace: definition.pace,
    };
  }

  private say(part: string, code: ProblemCode, message: string): null {
    this.problems.push(finding(part, code, message));
    return null;
  }

  private condition(source: RecordType, condition: Expression | null): Typed | null {
    if (!condition) return null;
    return typedPart(this.problems, 'condition', typeCondition(this.model, source.key, condition));
  }

  private pace(): void {
    const { pace, each, condition } = this.rule.definition;
    this.problems.push(...(checkTimes(pace) ?? []));
    if (
      pace === 'soonAfter' ||
      (typeof pace !== 'string' && pace.kind === 'onRequest' && pace.field !== null)
    )
      this.say(
        'pace',
        'rule.pace',
        'A record is made with the save, at set times, or when a person asks on the record’s page. Choose one of these.',
      );
    if (typeof pace !== 'string' && pace.kind === 'timetable' && each === 'everyTime' && !condition)
      this.say(
        'condition',
        'create.endless',
        'At set times one would be made for every record there is, each time. Say which records, or make one for each only once.',
      );
  }

  /** Each link must lead from one to the other. */
  private links(source: RecordType, makes: RecordType): void {
    const { back, forward, afterwards } = this.rule.definition;
    const isLink = (field: Field | undefined, to: RecordType) =>
      field?.type.kind === 'link' && field.type.target === to.key;
    if (back !== null && !isLink(this.model.field(makes.key, back), source))
      this.say(
        'links',
        'create.link',
        `${makes.name} has no such link to ${source.name}. Choose another, or none.`,
      );
    const named = forward === null ? undefined : this.model.field(source.key, forward);
    if (forward !== null && !isLink(named, makes))
      this.say(
        'links',
        'create.link',
        `${source.name} has no such link to ${makes.name}. Choose another, or none.`,
      );
    if (named?.required)
      this.say(
        'links',
        'create.link',
        `${named.name} of ${source.name} is required, so it is filled before anything is made. Choose another, or none.`,
      );
    if (afterwards === 'unlinked' && back === null && forward === null)
      this.say('afterwards', 'create.afterwards', 'There is no link between the two that could be emptied.');
    if (afterwards === 'unlinked' && back !== null && this.model.field(makes.key, back)?.required)
      this.say(
        'afterwards',
        'create.afterwards',
        `${fieldIn(this.model, makes.key, back).name} is required, so it can’t be emptied. Choose what else becomes of it.`,
      );
  }

  private assigned(source: RecordType, makes: RecordType): CompiledAssigned[] {
    const { assignments, back } = this.rule.definition;
    return this.handed('assignments', assignments, {
      ...{ from: source, to: makes, taken: back },
      unfit: ({ name, type }) =>
        type.kind === 'serial'
          ? finding(
              'target',
              'rule.kinds',
              `${name} is a serial number: Oikon gives it when the record is made. Leave it out.`,
            )
          : null,
      returnsTo: (value, target) => this.returnsTo(source, value, target),
    });
  }

  /** What the record that it is for is given from what was made. */
  private given(source: RecordType, makes: RecordType): CompiledAssigned[] {
    const { gives = [], forward } = this.rule.definition;
    return this.handed('gives', gives, {
      ...{ from: makes, to: source, taken: forward },
      unfit: (target) => cantTake(target) ?? checkTarget(target, null)[0] ?? null,
      returnsTo: () => null,
    });
  }

  /** Values of one record for fields of the other; each field once, and not the link that is filled anyway. */
  private handed(
    part: 'assignments' | 'gives',
    assignments: readonly Assignment[],
    {
      from,
      to,
      taken,
      unfit,
      returnsTo,
    }: {
      readonly from: RecordType;
      readonly to: RecordType;
      readonly taken: string | null;
      readonly unfit: (target: Field) => Problem | null;
      readonly returnsTo: (value: AssignedValue, target: Field) => Field | null;
    },
  ): CompiledAssigned[] {
    if (assignments.length > MOST_ASSIGNMENTS)
      this.say(part, 'cascade.size', `At most ${MOST_ASSIGNMENTS} fields are assigned by one rule.`);
    const assigned = new Set<string>(taken === null ? [] : [taken]);
    return assignments.flatMap(({ target: key, value, isOff }, at): CompiledAssigned[] => {
      if (isOff) return [];
      const place = `${part}.${at}`;
      const target = this.model.field(to.key, key);
      const problem = target && unfit(target);
      if (!target)
        this.say(`${place}.target`, 'rule.target', `Choose the field of ${to.name} that takes the value.`);
      else if (problem) this.problems.push({ ...problem, place: `${place}.target` });
      else if (assigned.has(key))
        this.say(`${place}.target`, 'cascade.twice', 'This rule assigns that field already. Choose another.');
      else {
        assigned.add(key);
        const assigning = { source: from, target, value, place: `${place}.value`, isKept: false };
        const checked = checkAssigned(this.model, assigning);
        if (checked.ok) return [{ ...checked.value, target, returnsTo: returnsTo(value, target) }];
        this.problems.push(checked.problem);
      }
      return [];
    });
  }

  /** Back goes only what is the same both ways: a field of the record itself, of a kind that converts exactly. */
  private returnsTo(source: RecordType, value: AssignedValue, target: Field): Field | null {
    if (value.kind !== 'expression' || value.expression.kind !== 'field') return null;
    if (value.expression.route.length > 0) return null;
    const field = this.model.field(source.key, value.expression.field);
    if (!field || field.type.kind === 'serial' || checkTarget(field, null).length > 0) return null;
    return isExact(field, target) && isExact(target, field) ? field : null;
  }

  /** Every required field of what is made is given something, or has a default. */
  private required(makes: RecordType): void {
    const { assignments, back } = this.rule.definition;
    const given = new Set([back, ...assignments.flatMap(({ target, isOff }) => (isOff ? [] : [target]))]);
    const open = makes.openLinks ?? [];
    const missing = [
      ...makes.fields.filter(
        ({ key, required, default: start }) =>
          required && !given.has(key) && (start === undefined || start === null),
      ),
      ...open.filter(({ required, links }) => required && !links.some((link) => given.has(link))),
    ].map(({ name }) => name);
    if (missing.length > 0)
      this.say(
        'assignments',
        'create.required',
        `${missing.join(' and ')} of ${makes.name} must be entered: assign ${missing.length === 1 ? 'it' : 'them'}, or give ${missing.length === 1 ? 'it a default' : 'them defaults'} in the model.`,
      );
  }

  private way(part: CreatePart, source: RecordType, way: ExecutionModeBy): CompiledExecutionMode {
    if (typeof way === 'string') return { field: null, rows: [], otherwise: way };
    const field = this.model.field(source.key, way.field);
    if (field?.type.kind !== 'choice' && field?.type.kind !== 'yesNo') {
      this.say(part, 'create.way', `Choose a choice or yes/no field of ${source.name} by which this goes.`);
      return { field: null, rows: [], otherwise: way.otherwise };
    }
    const rows = way.rows.flatMap(({ from, way: to }): { from: Value; way: ExecutionMode }[] => {
      const parsed = parseValue(field.type, from);
      if (parsed.ok) return [{ from: parsed.value, way: to }];
      this.problems.push({ ...parsed.problem, place: part });
      return [];
    });
    if (rows.some(({ from }, at) => rows.findIndex((other) => sameValue(other.from, from)) < at))
      this.say(part, 'create.way', 'Each option stands in one row only. Take one of them out.');
    return { field, rows, otherwise: way.otherwise };
  }

  private ways(
    { making, following, returning }: Record<'making' | 'following' | 'returning', CompiledExecutionMode>,
    assigned: readonly CompiledAssigned[],
  ): void {
    const { pace, mayAsk } = this.rule.definition;
    const isNever = (way: CompiledExecutionMode) => executionModesOf(way).every((one) => one === 'not');
    if (isNever(making) && pace === 'withTheSave' && !mayAsk)
      this.say('making', 'create.way', 'Then nothing would ever be made. Choose how it is made.');
    if (!isNever(returning) && isNever(following))
      this.say(
        'returning',
        'create.way',
        'Changes go back only where they also follow. Choose how they follow first.',
      );
    if (
      !isNever(returning) &&
      this.problems.length === 0 &&
      assigned.every(({ returnsTo }) => returnsTo === null)
    )
      this.say(
        'returning',
        'create.returning',
        'None of the values assigned could go back: each is worked out, of another kind, or from a field that must be entered. Assign a field as it is.',
      );
  }

  private marks(makes: RecordType): CompiledCreate['marks'] {
    const { afterwards } = this.rule.definition;
    if (typeof afterwards === 'string') return null;
    const target = this.model.field(makes.key, afterwards.field);
    if (!target)
      return this.say('afterwards', 'create.afterwards', `Choose the field of ${makes.name} that marks it.`);
    const parsed = parseValue(target.type, afterwards.value);
    if (parsed.ok) return { target, value: parsed.value };
    this.problems.push({ ...parsed.problem, place: 'afterwards' });
    return null;
  }

  private reads(
    source: RecordType,
    where: Typed | null,
    assigned: readonly CompiledAssigned[],
    ways: readonly CompiledExecutionMode[],
  ) {
    const reads = new ReadPaths(this.model, source.key);
    for (const node of [where, ...assigned.flatMap(({ value, given }) => [...partsIn(value), given])])
      if (node) reads.addFields([], node);
    for (const { field } of ways) if (field) reads.addOwn(field.key);
    return reads.all();
  }
}
