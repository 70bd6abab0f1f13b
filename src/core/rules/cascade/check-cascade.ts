import { typeCondition, typeFieldRead } from '@/core/expression';
import { type Field, type Model, type RecordType, typeAlong, typeIn } from '@/core/model';
import { certain, hasTrait, KIND_NAMES, parseValue, type Problem, type ProblemCode } from '@/core/values';
import {
  type Cascade,
  type ChangeTest,
  type ReactingCascade,
  type KeptCascade,
  type CompiledTest,
  type CompiledAssigning,
} from './cascade';
import { cantTake, checkAssigned } from './check-assigned';
import { checkTarget, finding, typedPart } from '@/core/rules/shared/check-target';
import { bridgeOn, reachOf, type Reach } from './cascade-route';
import { enteredToo, keptPart, type KeptValue } from './kept-part';
import { type Part, reactingPart, type Shared } from './reacting-part';
import { checkPace } from '@/core/rules/pace';
import type { Rule } from '@/core/rules/rule';
import type { Read } from '@/core/rules/shared/base';

/** The parts of a cascade's sentence at which a finding may point; those of an assignment by its number: `assignments.0.target`. */
export type CascadePart =
  | 'type'
  | 'route'
  | 'same'
  | 'condition'
  | 'moment'
  | 'only'
  | 'order'
  | 'assignments'
  | 'precedence'
  | 'pace';

export type CompiledAsCascade =
  | { readonly ok: true; readonly rule: KeptCascade | ReactingCascade }
  | { readonly ok: false; readonly problems: readonly Problem[] };

const MOST_ASSIGNMENTS = 20;
const MOST_STEPS = 4;

/**
 * Checks a cascade against the model and types it. Refuses, with a finding for each part of the sentence: types, fields and links that don't
 * exist, values of other kinds than their fields, fields that can't be written, and ways that a moment can't go.
 */
export function compileCascade(model: Model, rule: Rule<Cascade>): CompiledAsCascade {
  const checker = new CascadeChecker(model, rule);
  const found = checker.parts();
  if (checker.problems.length > 0 || found.length === 0) return { ok: false, problems: checker.problems };
  // Records are found for all parts at once: where one of them reads the bridge, it is there for each.
  const via = found.flatMap((one) => (one.kind === 'reactingCascade' ? (one.via ?? []) : []))[0] ?? null;
  const parts = found.map((one) => (one.kind === 'reactingCascade' ? { ...one, via } : one));
  const [first, ...others] = parts;
  return { ok: true, rule: { ...certain(first), parts: others } as KeptCascade | ReactingCascade };
}

class CascadeChecker {
  readonly problems: Problem[] = [];

  constructor(
    private readonly model: Model,
    private readonly rule: Rule<Cascade>,
  ) {}

  parts(): (KeptCascade | ReactingCascade)[] {
    const { definition } = this.rule;
    const source = this.model.type(definition.type);
    if (!source) return this.say('type', 'rule.type', 'Choose the type of record whose values are cascaded.');
    const reach = reachOf(this.model, source.key, definition.route);
    if (!reach || definition.route.length > MOST_STEPS)
      return this.say(
        'route',
        'rule.route',
        `Choose to which records the values of ${source.name} are cascaded.`,
      );
    this.checkMoment(source, reach);
    const [step] = definition.route;
    const isDownItself =
      definition.route.length === 1 && step?.direction === 'down' && step.type === source.key;
    if (definition.isAllTheWay && (!isDownItself || typeof definition.moment === 'string'))
      this.say(
        'route',
        'cascade.allTheWay',
        'All the way down goes over one link of a type to itself, when something changes. Kept in step it goes so by itself, where a field is cascaded to the same field. Choose other records, or another moment.',
      );
    const recipient = typeIn(this.model, typeAlong(this.model, source.key, definition.route));
    const active = definition.assignments.flatMap((assignment, at) =>
      assignment.isOff ? [] : [{ assignment, at }],
    );
    if (active.length === 0) this.say('assignments', 'cascade.empty', 'Assign at least one field.');
    if (definition.assignments.length > MOST_ASSIGNMENTS)
      this.say('assignments', 'cascade.size', `At most ${MOST_ASSIGNMENTS} fields are assigned by one rule.`);
    const shared = this.shared(source, recipient);
    this.problems.push(...checkPace(this.model, definition, definition.moment !== 'inStep'));
    const parts = active.flatMap(
      ({ assignment, at }) => this.part({ source, recipient, reach, assignment, at, ...shared }) ?? [],
    );
    const targets = active.map(({ assignment }) => assignment.target);
    active.forEach(({ assignment, at }, index) => {
      if (targets.indexOf(assignment.target) < index)
        this.say(
          `assignments.${at}.target`,
          'cascade.twice',
          'This rule assigns that field already. Choose another.',
        );
    });
    return parts;
  }

  private say(part: string, code: ProblemCode, message: string): never[] {
    this.problems.push(finding(part, code, message));
    return [];
  }

  private checkMoment(source: RecordType, reach: Reach): void {
    const { moment } = this.rule.definition;
    if (moment === 'inStep' && reach === 'itself')
      this.say(
        'moment',
        'cascade.inStep',
        'A record’s own fields are kept in step by a formula. Make it one, or cascade when something changes.',
      );
    if (moment === 'atCreation' && reach !== 'beneath' && reach !== 'siblings')
      this.say(
        'moment',
        'cascade.atCreation',
        'Only records beneath start with the values of what they hang under, and siblings with one another’s. Cascade when something changes.',
      );
    if (typeof moment !== 'string' && moment.tests.length === 0)
      this.say('moment', 'cascade.tests', `Choose which change of ${source.name} cascades.`);
  }

  /** What all assignments share. */
  private shared(source: RecordType, recipient: RecordType): Shared {
    const { condition, same = [], order, moment } = this.rule.definition;
    const typed = condition
      ? this.typed('condition', typeCondition(this.model, recipient.key, condition))
      : null;
    const fields = same.flatMap((key, at): Field[] => {
      const [one, other] = [this.model.field(source.key, key), this.model.field(recipient.key, key)];
      if (one && other && one.type.kind === other.type.kind) return [other];
      return this.say(
        `same.${at}`,
        'cascade.same',
        `${source.name} and ${recipient.name} don’t both have such a field. Choose another.`,
      );
    });
    const by = order?.field ? this.typed('order', typeFieldRead(this.model, source.key, order.field)) : null;
    const where =
      typeof moment !== 'string' && moment.where
        ? this.typed('moment', typeCondition(this.model, source.key, moment.where, { usesRunContext: true }))
        : null;
    const tests =
      typeof moment === 'string' ? [] : moment.tests.flatMap((test, at) => this.test(source, test, at) ?? []);
    return {
      condition: typed,
      same: fields,
      order: order && (by || !order.field) ? { field: by, isLast: order.isLast } : null,
      where,
      tests,
    };
  }

  private typed<T>(part: string, result: Parameters<typeof typedPart<T>>[2]): T | null {
    return typedPart(this.problems, part, result);
  }

  private test(source: RecordType, test: ChangeTest, at: number): CompiledTest | null {
    const place = `moment.tests.${at}`;
    const field = this.model.field(source.key, test.field);
    if (!field) {
      this.say(
        place,
        'cascade.watched',
        `${source.name} has no field “${test.field}” any more. Choose another.`,
      );
      return null;
    }
    if (test.kind === 'changed') return { kind: 'changed', field };
    if (test.kind === 'rose' || test.kind === 'fell') {
      if (hasTrait(field.type.kind, 'rising')) return { kind: test.kind, field };
      this.say(
        place,
        'cascade.watched',
        `${field.name} is ${KIND_NAMES[field.type.kind]}: it can’t rise or fall.`,
      );
      return null;
    }
    const parsed = parseValue(field.type, 'value' in test ? test.value : null);
    if (parsed.ok) return { kind: test.kind, field, value: parsed.value };
    this.problems.push({ ...parsed.problem, place });
    return null;
  }

  private part(given: Part): KeptCascade | ReactingCascade | null {
    const { recipient, assignment, at } = given;
    const place = `assignments.${at}`;
    const target = this.model.field(recipient.key, assignment.target);
    if (!target) {
      this.say(
        `${place}.target`,
        'rule.target',
        `Choose the field of ${recipient.name} that takes the value.`,
      );
      return null;
    }
    const unfit = cantTake(target) ?? checkTarget(target, null)[0];
    if (unfit) {
      this.problems.push({ ...unfit, place: `${place}.target` });
      return null;
    }
    const value = this.value(given, target, `${place}.value`);
    if (!value) return null;
    return this.rule.definition.moment === 'inStep'
      ? this.inStep(given, target, value, place)
      : reactingPart(this.model, this.rule, given, target, value);
  }

  /** What is cascaded, typed on the record that does. */
  private value({ source, assignment }: Part, target: Field, place: string): CompiledAssigning | null {
    const isInStep = this.rule.definition.moment === 'inStep';
    const checked = checkAssigned(this.model, {
      ...{ source, target, place, value: assignment.value, isKept: isInStep },
      via: bridgeOn(this.model, source.key, this.rule.definition.route),
    });
    if (checked.ok) return checked.value;
    this.problems.push(checked.problem);
    return null;
  }

  private inStep(given: Part, target: Field, assigned: CompiledAssigning, place: string): KeptCascade | null {
    const { value } = assigned;
    if (value.kind === 'worked' && !value.isBefore && given.reach !== 'itself')
      return this.kept(given, target, { ...assigned, value: value.value }, place);
    if (given.reach === 'itself') return null; // told at the moment
    const what = value.kind === 'text' ? 'Text with values in it' : 'The value before';
    this.say(
      `${place}.value`,
      'cascade.inStep',
      `${what} is cascaded when something changes, or at creation. Kept in step, write an expression.`,
    );
    return null;
  }

  private kept(given: Part, target: Field, assigned: KeptValue, place: string): KeptCascade | null {
    const { definition } = this.rule;
    const rule = keptPart(this.model, this.rule, given, target, assigned);
    const isOwn = ({ path, type, field }: Read) =>
      field === target.key &&
      (path.length === 0 || (given.reach !== 'beneath' && type === given.recipient.key));
    const read = rule.reads.find(isOwn);
    if (read?.path.length === 0) {
      this.say(
        'condition',
        'cascade.itself',
        `What is kept in step can’t hang on ${target.name} itself: then nothing would say what it is. Test another field.`,
      );
      return null;
    }
    if (read) {
      this.say(
        `${place}.value`,
        'cascade.itself',
        `What is kept in step here can’t be made of ${target.name} of other records of the type: each would wait for the others. Cascade another field, or when something changes.`,
      );
      return null;
    }
    if (rule.handsDown && definition.pace !== 'withTheSave') {
      this.say(
        'pace',
        'cascade.pace',
        'What goes all the way down is kept in step with the save. Choose that.',
      );
      return null;
    }
    return enteredToo(this.model, rule);
  }
}
