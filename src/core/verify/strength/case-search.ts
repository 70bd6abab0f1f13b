import { certain, firstIn, itemAt } from '@/core/values';
import type { Row, WireEdit } from '@/core/engine';
import type { Model } from '@/core/model';
import { type FieldRef, type Rule, type RuleDefinition, targetsOf } from '@/core/rules';
import { type RuleEffect, effectOf, expectedOf, isStirring } from '@/core/verify/proof/rule-effect';
import { editWords, givesWords, recordWords, titlesIn } from '@/core/verify/proof/case-words';
import type { FamilyData } from '@/core/verify/family/family';
import { type InputDomain, inputDomainOf, MADE_UP_PEOPLE } from './input-domain';
import { type GeneratedFamily, generateFamily, withEditOf } from './generate-family';
import { madeUpStore } from './made-up-family';
import { madeUpFamily } from './made-up-family';
import {
  type Expectation,
  type Proof,
  type ProofResult,
  proofThrough,
  readyProof,
} from '@/core/verify/proof/proof';
import { PlannedRules, plannedWith } from '@/core/verify/rehearsal/planned-rules';
import { type Forgets, runThrough } from '@/core/verify/rehearsal/run-through';
import { shrinkCase } from './shrink-case';
import { type RunSetting, settledDayOf } from '@/core/verify/rehearsal/run-schedule';

/** A small made-up family with edits, and what a rule makes of it. */
export interface Case {
  readonly family: FamilyData;
  readonly runs: readonly (readonly WireEdit[])[];
  readonly expectations: readonly Expectation[];
  /** In words: the records, what is done to them, and what must come of it. */
  readonly records: readonly string[];
  readonly edits: readonly string[];
  readonly gives: readonly string[];
}

/** A rule otherwise than it is: as another definition, or forgetting edits of a sort. */
export interface Otherwise {
  readonly definition: RuleDefinition;
  readonly forgets?: Forgets;
}

/** Somebody made up makes all the edits of a case. */
export const BY_ONE: readonly RunSetting[] = [{ run: 0, person: firstIn(Object.keys(MADE_UP_PEOPLE)) }];

/** Most cases that are made up in search of one. */
export const MOST_MADE_UP = 1_000;

interface Tried {
  readonly made: GeneratedFamily;
  readonly came: RuleEffect | null;
}

/**
 * Looks for cases of a rule among others: small families with edits on the domain of the rule, made up one after the other, always the same.
 * All rules must fit the model.
 */
export class CaseSearch {
  readonly #domain: InputDomain;
  readonly #own: PlannedRules;
  readonly #all: PlannedRules;
  readonly #others = new Map<Otherwise, PlannedRules>();
  readonly #watched: readonly FieldRef[];
  readonly #tried: Tried[] = [];
  /** Cases in which the rule, or another form of it, does something: further ones are made from them. */
  readonly #stirring = new Set<GeneratedFamily>();

  constructor(
    private readonly model: Model,
    private readonly rules: readonly Rule[],
    private readonly rule: Rule,
    beside: readonly RuleDefinition[] = [],
  ) {
    this.#domain = inputDomainOf(model, rules, rule, beside);
    this.#own = new PlannedRules(this.#domain.rules);
    this.#all = new PlannedRules(rules);
    this.#watched = targetsOf(model, rule.definition);
  }

  /** The case of a number where it tells the rule from another form of it: with as little in it as still does. */
  telling(number: number, otherwise: Otherwise): Case | null {
    const { made, came } = otherwise.forgets ? this.edited(number, otherwise.forgets) : this.tried(number);
    const other = this.otherwise(otherwise);
    const would = came && this.came(other, made);
    if (!would || would.key === came.key) return null;
    if (isStirring(would)) this.#stirring.add(made);
    const least = shrinkCase(this.model, made, (one) => {
      const gives = this.came(this.#own, one);
      const instead = gives && this.came(other, one);
      return instead !== null && instead.key !== certain(gives).key;
    });
    const found = this.caseOf(least, certain(this.came(this.#own, least)), this.came(other, least));
    return found.expectations.length > 0 && this.isSure(found, otherwise) ? found : null;
  }

  /** The records of a number, without any edits, where they are such as are wanted, and as few as still are; all that the rule gives for them is expected. */
  standing(number: number, isWanted: (rows: readonly Row[]) => boolean): Case | null {
    const made: GeneratedFamily = { rows: this.tried(number).made.rows, runs: [] };
    if (!isWanted(made.rows) || this.came(this.#own, made) === null) return null;
    const least = shrinkCase(
      this.model,
      made,
      (one) => isWanted(one.rows) && this.came(this.#own, one) !== null,
    );
    const found = this.caseOf(least, certain(this.came(this.#own, least)), null);
    const isHeld = found.expectations.length > 0 && this.holds(found, this.#all).kind === 'held';
    return isHeld ? found : null;
  }

  /** Whether a case, kept as a proof, would notice another form of the rule. */
  wouldNotice(found: Case, otherwise: Otherwise): boolean {
    return this.holds(found, this.otherwise(otherwise)).kind === 'missed';
  }

  /** The records of a number with one edit of a sort that is forgotten: elsewhere the two can't part. */
  private edited(number: number, sort: Forgets): Tried {
    const tried = this.tried(number);
    const made = withEditOf(this.model, this.#domain, tried.made, sort, number);
    return made ? { made, came: this.came(this.#own, made) } : { made: tried.made, came: null };
  }

  /** The cases up to a number, made up one after the other. */
  private tried(number: number): Tried {
    for (let next = this.#tried.length; next <= number; next += 1) {
      const made = generateFamily(this.model, this.#domain, next, [...this.#stirring]);
      const came = this.came(this.#own, made);
      if (came && isStirring(came)) this.#stirring.add(made);
      this.#tried.push({ made, came });
    }
    return itemAt(this.#tried, number);
  }

  private otherwise(otherwise: Otherwise): PlannedRules {
    let known = this.#others.get(otherwise);
    if (!known)
      this.#others.set(otherwise, (known = plannedWith(this.#domain.rules, this.rule.id, otherwise)));
    return known;
  }

  /** With all the rules that there are, too, the case holds with the rule and doesn't with its other form. */
  private isSure(found: Case, otherwise: Otherwise): boolean {
    return (
      this.holds(found, this.#all).kind === 'held' &&
      this.holds(found, plannedWith(this.rules, this.rule.id, otherwise)).kind === 'missed'
    );
  }

  private holds(found: Case, rules: PlannedRules): ProofResult {
    const proof: Proof = {
      ...{ id: '', rule: this.rule.id, name: '', day: settledDayOf(this.model) },
      ...{ family: found.family, people: Object.keys(MADE_UP_PEOPLE), runs: found.runs, settings: BY_ONE },
      expectations: found.expectations,
    };
    return proofThrough(readyProof(this.model, proof), rules);
  }

  /** What comes of a case; `null` where its edits are refused. */
  private came(rules: PlannedRules, { rows, runs }: GeneratedFamily): RuleEffect | null {
    const { problems, ...atWork } = rules.on(this.model);
    if (problems.length > 0) return null;
    const records = madeUpStore(this.model, rows);
    const people = new Set(Object.keys(MADE_UP_PEOPLE));
    const ended = runThrough({ model: this.model, ...atWork }, { records, runs, people, settings: BY_ONE });
    return ended.refused.size + ended.unfilled.length > 0
      ? null
      : effectOf(this.model, ended, this.rule.id, this.#watched);
  }

  private caseOf(made: GeneratedFamily, came: RuleEffect, would: RuleEffect | null): Case {
    const expectations = expectedOf(this.rule.id, came, would);
    const titles = titlesIn(this.model, made, MADE_UP_PEOPLE);
    return {
      ...{ family: madeUpFamily(this.model, made.rows), runs: made.runs, expectations },
      records: made.rows.map((row) => recordWords(this.model, row, titles)),
      edits: made.runs.flat().map((edit) => editWords(this.model, edit, titles)),
      gives: expectations.map((one) =>
        givesWords(one, { model: this.model, titles, would, isAtRest: made.runs.length === 0 }),
      ),
    };
  }
}
