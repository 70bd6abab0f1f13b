'use client';

import { compileRule, type RuleDefinition, sentenceParts } from '@/core/rules';
import type { Model } from '@/core/model';
import type { ProofStanding } from '@/core/verify';
import type { RuleView } from '@/core/api';
import { Checkbox } from 'antd';
import { Link } from '@/ui/kit/navigation';
import { termMeans } from '@/ui/help/terms';
import { StateTag } from '@/ui/kit/state-tag';
import { KindGlyph } from '@/ui/theme/glyphs';
import type { Figure } from '@/ui/workers/use-strength';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';
import { changeWords, isPilotOnly, isTriedAsWritten } from '@/ui/rules/state-words';
import style from './rule-row.module.css';

export interface RuleRowProps {
  readonly rule: RuleView;
  readonly model: Model;
  readonly nameOf: (person: string) => string | undefined;
  /** Its sentence in full; else one line. */
  readonly isWhole: boolean;
  readonly isMarked: boolean;
  readonly onMark: (isMarked: boolean) => void;
  /** `null` where it has none; left out until that is known. */
  readonly proofs: ProofStanding | null | undefined;
  /** What its proofs notice, where that is known. */
  readonly figure: Figure | null;
}

/** A rule in the list: its name and its sentence; of a live one that was changed, what is live and what waits. */
export function RuleRow({ rule, model, nameOf, isWhole, isMarked, onMark, proofs, figure }: RuleRowProps) {
  return (
    <div className={clsx(style.row, isWhole && style.whole)}>
      <Checkbox
        checked={isMarked}
        aria-label={`Mark ${rule.name}`}
        onChange={(event) => onMark(event.target.checked)}
      />
      <Link href={`/rules/${rule.id}`} className={style.rule}>
        <KindGlyph kind={rule.definition.kind} size={isWhole ? 22 : 18} />
        <span className={style.says}>
          <span className={style.name}>
            {rule.name}
            {rule.tags.map((tag) => (
              <span key={tag} className={style.tag}>
                {tag}
              </span>
            ))}
          </span>
          {isWhole ? <Sentences {...{ rule, model, nameOf }} /> : <Line rule={rule} />}
        </span>
        <States {...{ rule, proofs, figure }} />
      </Link>
    </div>
  );
}

const Line = ({ rule }: { rule: RuleView }) => (
  <span className={style.line} title={rule.sentence}>
    {rule.sentence}
  </span>
);

function Sentences({ rule, model, nameOf }: Pick<RuleRowProps, 'rule' | 'model' | 'nameOf'>) {
  const live = rule.hasChangesNotLive ? rule.liveDefinition : null;
  return (
    <>
      {live ? (
        <>
          <Sentence {...{ model, nameOf, definition: live }} told={rule.name} />
          <span className={style.waiting}>
            <span className={style.what}>
              {isTriedAsWritten(rule) ? 'Tried on the pilot' : 'Not live yet'}
            </span>
            <Sentence {...{ model, nameOf }} definition={rule.definition} told={rule.sentence} />
          </span>
        </>
      ) : (
        <Sentence {...{ model, nameOf }} definition={rule.definition} told={rule.sentence} />
      )}
      {rule.note ? <span className={style.note}>{rule.note}</span> : null}
    </>
  );
}

interface SentenceProps extends Pick<RuleRowProps, 'model' | 'nameOf'> {
  readonly definition: RuleDefinition;
  /** What stands for it where it doesn't fit the model. */
  readonly told: string;
}

function Sentence({ model, nameOf, definition, told }: SentenceProps) {
  const compiled = compileRule(model, { id: 'told', version: '', name: '', definition });
  if (!compiled.ok) return <span className={style.sentence}>{told}</span>;
  return (
    <span className={style.sentence}>
      {sentenceParts(model, compiled.rule, nameOf).map(({ text, part }, index) =>
        part ? <em key={index}>{text}</em> : <span key={index}>{text}</span>,
      )}
    </span>
  );
}

function States({ rule, proofs, figure }: Pick<RuleRowProps, 'rule' | 'proofs' | 'figure'>) {
  const change = changeWords(rule);
  return (
    <span className={style.states}>
      {proofs === undefined ? null : <ProofsTold {...{ proofs, figure }} />}
      {rule.findings.length > 0 && rule.state !== 'live' ? (
        <span className={style.hindered}>Can’t go live yet</span>
      ) : null}
      {rule.pilot ? <span className={style.pilot}>for {rule.pilot.words}</span> : null}
      <span className={style.tags}>
        {change ? <span className="state-tag">{change}</span> : null}
        <StateTag
          state={rule.state}
          isPilot={isPilotOnly(rule)}
          means={termMeans(isPilotOnly(rule) ? 'pilot' : rule.state)}
        />
      </span>
    </span>
  );
}

function ProofsTold({ proofs, figure }: Pick<RuleRowProps, 'figure'> & { proofs: ProofStanding | null }) {
  if (!proofs || proofs.proofs === 0) return <span className="quiet">No proof</span>;
  const { proofs: all, held } = proofs;
  const missed = all - held;
  if (missed > 0)
    return (
      <span
        className={kitStyle.proofFails}
      >{`${missed} of ${all} proofs ${missed === 1 ? 'doesn’t' : 'don’t'} hold`}</span>
    );
  return (
    <>
      <span className="quiet" title={termMeans('proof')}>
        {all === 1 ? '1 proof holds' : `${all} proofs hold`}
      </span>
      {figure && figure.tried > 0 ? (
        <span className={figure.noticed < figure.tried ? style.weak : 'quiet'}>
          {`${figure.noticed} of ${figure.tried} changes noticed`}
        </span>
      ) : null}
    </>
  );
}
