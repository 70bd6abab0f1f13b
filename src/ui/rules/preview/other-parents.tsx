'use client';

import { certain, firstIn } from '@/core/values';
import { type Model, openLinkOf, typeIn } from '@/core/model';
import {
  compileRule,
  forOtherParents,
  type OtherParent,
  type RollUp,
  type RuleDefinition,
} from '@/core/rules';
import type { RuleView } from '@/core/api';
import { Button } from 'antd';
import { callApi } from '@/ui/api/client';
import { article } from '@/core/article';
import { Link } from '@/ui/kit/navigation';
import { clsx } from 'clsx';
import rulesStyle from '@/ui/rules/rules.module.css';

export interface OtherParentsProps {
  readonly model: Model;
  readonly definition: RuleDefinition | null;
  readonly note: string;
  readonly rules: readonly RuleView[];
  readonly isBusy: boolean;
  /** Writes a rule as a draft. */
  readonly run: (work: (person: string | null) => Promise<unknown>) => Promise<unknown>;
}

/** Of a rule over an open link: the same for each of the other types that may be named there, offered beside it. */
export function OtherParents({ model, definition, note, rules, isBusy, run }: OtherParentsProps) {
  if (definition?.kind !== 'rollUp') return null;
  const others = forOtherParents(model, definition);
  const [step] = definition.route;
  if (others.length === 0 || step?.direction !== 'down') return null;
  const child = typeIn(model, step.type);
  const open = certain(openLinkOf(child, step.link));
  return (
    <section className={clsx('sheet', rulesStyle.ruleAbout)} aria-label="The same for other types">
      <span>
        {open.name} of {article(child.name)} {child.name} may also name{' '}
        {others
          .map(({ type }) => typeIn(model, type).name)
          .map((name) => `${article(name)} ${name}`)
          .join(' or ')}
        .
      </span>
      {others.map((other) => (
        <Other
          key={other.type}
          {...{ model, other, isBusy }}
          written={rules.find((rule) => isSame(rule.definition, other, definition))}
          onWrite={(same) =>
            run((person) => callApi('/rules', { method: 'POST', body: { definition: same, note }, person }))
          }
        />
      ))}
    </section>
  );
}

const isSame = (one: RuleDefinition, other: OtherParent, { target }: RollUp): boolean =>
  one.kind === 'rollUp' && one.type === other.type && one.target === target;

interface OtherProps {
  readonly model: Model;
  readonly other: OtherParent;
  readonly written: RuleView | undefined;
  readonly isBusy: boolean;
  readonly onWrite: (definition: RollUp) => void;
}

function Other({ model, other, written, isBusy, onWrite }: OtherProps) {
  const type = typeIn(model, other.type);
  if (written)
    return (
      <span>
        For {type.plural}: <Link href={`/rules/${written.id}`}>{written.name}</Link>.
      </span>
    );
  const { definition } = other;
  if (!definition)
    return (
      <span className="quiet">
        For {type.plural} it can’t be written yet: {type.name} has no field “{other.missing.join('”, “')}”.
        Add it to the model first.
      </span>
    );
  const compiled = compileRule(model, { id: 'other', version: '', name: '', definition });
  if (!compiled.ok)
    return (
      <span className="quiet">
        For {type.plural} it can’t be written as it is: {firstIn(compiled.problems).message}
      </span>
    );
  return (
    <Button size="small" disabled={isBusy} onClick={() => onWrite(definition)}>
      Write the same for {type.plural}, as a draft
    </Button>
  );
}
