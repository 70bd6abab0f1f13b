import { fieldIn, type LinkRef, type Model, type Step, typeAlong, typeIn } from '@/core/model';
import type { CascadePart } from '@/core/rules/cascade/check-cascade';
import type { CreatePart } from '@/core/rules/create/check-create';
import type { LinkPart } from '@/core/rules/link/check-link-rule';
import type { FormulaPart } from '@/core/rules/formula/check-formula';
import type { RollUpPart } from '@/core/rules/roll-up/check-roll-up';
import { paceWords } from '@/core/rules/pace';
import type { CompiledRule } from '@/core/rules/rule';

/** A piece of a rule's sentence: plain words, or a part that can be edited. */
export interface SentencePart {
  readonly text: string;
  readonly part: RollUpPart | FormulaPart | CascadePart | CreatePart | LinkPart | null;
}

export const words = (text: string): SentencePart => ({ text, part: null });
export const part = (
  name: RollUpPart | FormulaPart | CascadePart | CreatePart | LinkPart,
  text: string,
): SentencePart => ({
  text,
  part: name,
});

/** The name of the other end of a link: what the parent calls these children (`Loans`). */
export const childrenName = (model: Model, { type, link }: LinkRef): string =>
  fieldIn(model, type, link).otherEnd ?? typeIn(model, type).plural;

/** `With the save.`, `On request, or when Recount turns yes.` */
export function paceParts(model: Model, { pace, writes }: CompiledRule): SentencePart[] {
  const said = paceWords(pace, (field) => fieldIn(model, writes.type, field).name);
  return [part('pace', said.charAt(0).toUpperCase() + said.slice(1)), words('.')];
}

/** Where a route leads, by name. */
export const routeWords = (model: Model, from: string, route: readonly Step[]): string =>
  stepNames(model, from, route).reverse().join(' of its ');

/** What each step of a route is called. */
export function stepNames(model: Model, from: string, route: readonly Step[]): string[] {
  return route.map((step, index) =>
    step.direction === 'down'
      ? `${childrenName(model, step)}${step.isAllTheWay ? ' at any depth' : ''}`
      : typeIn(model, typeAlong(model, from, route.slice(0, index + 1))).plural,
  );
}
