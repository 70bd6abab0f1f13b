import {
  type Expression,
  fieldsRead,
  gathersIn,
  kindWords,
  type Typed,
  type TypedField,
  typeCondition,
  typeFieldRead,
  typeValue,
} from '@/core/expression';
import {
  type Field,
  follow,
  type Model,
  type OpenLink,
  openLinkOf,
  type RecordType,
  selfLinksOf,
  typeIn,
  fieldIn,
} from '@/core/model';
import { hasTrait, KIND_NAMES, type Problem, type ProblemCode, lastIn } from '@/core/values';
import { finding, typedPart } from '@/core/rules/shared/check-target';
import type { CompiledFinding, CompiledLinked, Finding, LinkRule } from './link-rule';
import { checkPace } from '@/core/rules/pace';
import { ReadPaths } from '@/core/rules/shared/read-paths';
import { allOf } from '@/core/rules/shared/both';
import type { Rule } from '@/core/rules/rule';
import type { FoundAmong } from '@/core/rules/shared/base';

/** The parts of a link rule's sentence at which a finding may point; those of a key by its number: `keys.0.value`. */
export type LinkPart =
  | 'type'
  | 'target'
  | 'appliesWhen'
  | 'find'
  | 'keys'
  | 'condition'
  | 'several'
  | 'order'
  | 'none'
  | 'holds'
  | 'pace';

export type CompiledAsLink =
  | { readonly ok: true; readonly rule: CompiledLinked }
  | { readonly ok: false; readonly problems: readonly Problem[] };

const MOST_KEYS = 4;
const MOST_STEPS = 4;
/**
 * Checks a link rule against the model and types it. Refuses, with a finding for each part of the sentence: links that don't exist or can't be
 * filled by a rule, ways that lead to another type, and keys of unlike kinds.
 */
export function compileLinkRule(model: Model, rule: Rule<LinkRule>): CompiledAsLink {
  const checker = new LinkChecker(model, rule);
  const compiled = checker.compile();
  return compiled && checker.problems.length === 0
    ? { ok: true, rule: compiled }
    : { ok: false, problems: checker.problems };
}

class LinkChecker {
  readonly problems: Problem[] = [];

  constructor(
    private readonly model: Model,
    private readonly rule: Rule<LinkRule>,
  ) {}

  compile(): CompiledLinked | null {
    const { id, version, name, definition } = this.rule;
    const type = this.model.type(definition.type);
    if (!type) return this.say('type', 'rule.type', 'Choose the type of record whose link is filled.');
    const target = this.target(type);
    const condition = this.typed(
      'appliesWhen',
      definition.appliesWhen ? typeCondition(this.model, type.key, definition.appliesWhen) : null,
    );
    if (condition && this.hangsOnTarget(condition))
      this.say(
        'appliesWhen',
        'link.itself',
        'Whether a rule applies can’t hang on the link that it fills. Choose another field, or fill the link only where it is empty.',
      );
    this.problems.push(...checkPace(this.model, definition, definition.holds === 'whereEmpty'));
    if (!target) return null;
    const find = this.find(type, target.to, definition.find);
    if (!find) return null;
    const { holds, none } = definition;
    if (holds === 'always' && find.kind === 'match' && find.several === 'ask')
      this.say(
        'several',
        'link.ask',
        'A person is asked only where the link is filled when it is empty: what is always so leaves nothing to choose. Take the first by an order, or fill only where it is empty.',
      );
    const open = openLinkOf(type, target.field.key);
    const appliesWhen = allOf([...this.others(type, target.field, open), ...(condition ? [condition] : [])]);
    const reads = new ReadPaths(this.model, type.key);
    // Whether it is empty, and what people enter, is looked at.
    reads.addOwn(target.field.key);
    if (appliesWhen) reads.addFields([], appliesWhen);
    let among: FoundAmong | null = null;
    if (find.kind === 'route') {
      reads.addFields([], find.value);
      if (find.topmost) reads.addAllUp([...find.value.route, find.value.field], find.topmost);
    } else {
      for (const { value } of find.keys) reads.addFields([], value);
      among = foundAmong(this.model, find);
    }
    return {
      ...{ kind: 'linked', id, version, name, definition, appliesWhen, condition, find, holds, none },
      ...(open ? { open } : {}),
      ...{
        writes: { type: type.key, field: target.field.key },
        target: target.field,
        resultType: target.field.type,
      },
      ...{ rounding: null, limits: null, rates: null, recursion: null, map: null, pace: definition.pace },
      ...{ reads: reads.all(), ...(among ? { among } : {}) },
    };
  }

  private say(part: string, code: ProblemCode, message: string): null {
    this.problems.push(finding(part, code, message));
    return null;
  }

  private typed<T>(part: string, result: Parameters<typeof typedPart<T>>[2] | null): T | null {
    return result && typedPart(this.problems, part, result);
  }

  private target(type: RecordType): { readonly field: Field; readonly to: string } | null {
    const field = this.model.field(type.key, this.rule.definition.target);
    if (field?.type.kind !== 'link')
      return this.say('target', 'rule.target', `Choose the link of ${type.name} that is filled.`);
    const to = field.type.target;
    if (this.isRequired(type, field) && !this.fillsAtOnce())
      return this.say(
        'target',
        'rule.target',
        `${field.name} is required: a rule fills it with the save, asks nobody which of several, and where it finds none leaves what people entered. Say it so, or choose another link.`,
      );
    if (to === type.key && (openLinkOf(type, field.key) || !namesAbove(this.model, this.rule.definition)))
      return this.say(
        'target',
        'rule.target',
        `${field.name} links ${type.plural} with one another: so that no loop is made, a rule links each to what lies above it over another link of theirs, or to the topmost; always, on all of them, with the save, and emptied where none is found. Say it so, or choose another link.`,
      );
    return { field, to };
  }

  private isRequired(type: RecordType, field: Field): boolean {
    return field.required === true || openLinkOf(type, field.key)?.required === true;
  }

  /** Whether nothing has to be waited for until the link is filled, and what stands there is never emptied. */
  private fillsAtOnce(): boolean {
    const { find, none, pace } = this.rule.definition;
    return pace === 'withTheSave' && none === 'leave' && !(find.kind === 'match' && find.several === 'ask');
  }

  /** Of an open link a record fills one: a rule leaves a record alone that fills another than the rule's. */
  private others(type: RecordType, field: Field, open: OpenLink | undefined): Typed[] {
    return (open?.links ?? []).flatMap((link): Typed[] => {
      if (link === field.key) return [];
      const operand = { kind: 'field', route: [], field: link } as const;
      const typed = typeCondition(this.model, type.key, { kind: 'presence', operator: 'isEmpty', operand });
      return typed.ok ? [typed.value] : [];
    });
  }

  private find(type: RecordType, to: string, find: Finding): CompiledFinding | null {
    return find.kind === 'route' ? this.route(type, to, find) : this.match(type, to, find);
  }

  private route(
    type: RecordType,
    to: string,
    { route, topmost, whenNoneAbove }: Extract<Finding, { kind: 'route' }>,
  ): CompiledFinding | null {
    const { target } = this.rule.definition;
    const reached = follow(this.model, type.key, route);
    if (route.length === 0 || route.length > MOST_STEPS || reached === undefined || route[0] === target)
      return this.say('find', 'link.route', `Choose the way on which the record is found.`);
    const name = typeIn(this.model, to).name;
    if (reached !== to)
      return this.say(
        'find',
        'link.route',
        `This way leads to ${typeIn(this.model, reached).name}; the link names ${name}. Choose another way.`,
      );
    const self =
      topmost === null
        ? null
        : this.model.linksFrom(reached).find(({ link, parent }) => link === topmost && parent === reached);
    if (self === undefined)
      return this.say('find', 'link.topmost', `${name} has no such link to itself. Choose another way.`);
    const value = this.typed(
      'find',
      typeFieldRead(this.model, type.key, { kind: 'field', route: route.slice(0, -1), field: lastIn(route) }),
    );
    if (!value) return null;
    return {
      kind: 'route',
      value,
      topmost: self && { type: reached, link: self.link, isItself: whenNoneAbove === 'itself' },
    };
  }

  private match(
    type: RecordType,
    to: string,
    { keys, ignoresCase, condition, several, order }: Extract<Finding, { kind: 'match' }>,
  ): CompiledFinding | null {
    const found = typeIn(this.model, to);
    if (keys.length === 0 || keys.length > MOST_KEYS)
      return this.say(
        'keys',
        'link.keys',
        `Say by which fields of ${found.name} it is found: 1 to ${MOST_KEYS}.`,
      );
    const typed = keys.flatMap(
      ({ field: key, value }, at) => this.key(type, found, { key, value, at, ignoresCase }) ?? [],
    );
    const where = this.typed('condition', condition ? typeCondition(this.model, to, condition) : null);
    const by = order?.field ? this.typed('order', typeFieldRead(this.model, to, order.field)) : null;
    if (typed.length < keys.length) return null;
    return {
      ...{ kind: 'match', type: to, keys: typed, condition: where, several },
      order: order && (by || !order.field) ? { field: by, isLast: order.isLast } : null,
    };
  }

  private key(
    type: RecordType,
    found: RecordType,
    {
      key,
      value,
      at,
      ignoresCase,
    }: { key: string; value: Expression | null; at: number; ignoresCase: boolean },
  ) {
    const place = `keys.${at}`;
    const field = this.typed<TypedField>(
      `${place}.field`,
      typeFieldRead(this.model, found.key, { kind: 'field', route: [], field: key }),
    );
    if (!field) return null;
    const name = fieldIn(this.model, found.key, key).name;
    if (!hasTrait(field.type.kind, 'matched'))
      return this.say(
        `${place}.field`,
        'link.keys',
        `${name} is ${KIND_NAMES[field.type.kind]}: nothing is found by it. Choose another field.`,
      );
    if (!value)
      return this.say(
        `${place}.value`,
        'link.keys',
        `Choose what of the ${type.name} must be the same as ${name}.`,
      );
    const typed = this.typed<Typed>(
      `${place}.value`,
      typeValue(this.model, type.key, value, { wanted: field.type, isAlone: true }),
    );
    if (!typed) return null;
    if (typed.type.kind !== field.type.kind)
      return this.say(
        `${place}.value`,
        'rule.kinds',
        `This is ${kindWords(typed.type)}; ${name} is ${kindWords(field.type)}. Choose what is of the same kind.`,
      );
    if (this.hangsOnTarget(typed))
      return this.say(
        `${place}.value`,
        'link.itself',
        'What is found can’t hang on the link that it fills. Choose another field.',
      );
    return { field, value: typed, isFolded: ignoresCase && field.type.kind === 'text' };
  }

  /** Whether a value is read from the link that is filled, or through it. */
  private hangsOnTarget(value: Typed): boolean {
    const { target } = this.rule.definition;
    return (
      fieldsRead(value).some(({ route: [first], field }) => (first ?? field) === target) ||
      gathersIn(value).some(({ up: [first] }) => first === target)
    );
  }
}

/**
 * Whether a rule that links records of a type with one another names what lies above each of them over another link, always and for all: then what is
 * named lies nearer to the top, so that no loop can come of it. A rule that leaves some of them to people, or to another day, couldn't promise that.
 */
export function namesAbove(
  model: Model,
  { type, target, appliesWhen, find, holds, none, pace }: LinkRule,
): boolean {
  if (find.kind !== 'route' || appliesWhen || holds !== 'always' || none !== 'clear') return false;
  const [first] = find.route;
  const links = new Set([...find.route, ...(find.topmost === null ? [] : [find.topmost])]);
  const isHierarchy = selfLinksOf(model, type).some(({ link }) => link === first);
  return pace === 'withTheSave' && links.size === 1 && isHierarchy && first !== target;
}

/** What of records says whether one is found among them. */
function foundAmong(
  model: Model,
  { type, keys, condition, order }: Extract<CompiledFinding, { kind: 'match' }>,
): FoundAmong {
  const reads = new ReadPaths(model, type);
  for (const { field } of keys) reads.addFields([], field);
  for (const node of [condition, order?.field]) if (node) reads.addFields([], node);
  const plain = keys.find(({ value }) => value.kind === 'field' && value.route.length === 0);
  const by =
    plain?.value.kind === 'field'
      ? { own: plain.value.field, other: plain.field.field, isFolded: plain.isFolded }
      : null;
  return { type, by, reads: reads.all() };
}
