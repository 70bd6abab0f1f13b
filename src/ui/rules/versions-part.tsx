'use client';

import type { RuleVersionView, RuleView } from '@/core/api';
import { MayButton } from '@/ui/kit/may-button';
import { useRuleVersions } from '@/ui/api/queries';
import { ChangedWords } from '@/ui/kit/changed-words';
import { ButtonLink } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { when } from '@/ui/kit/values/when';
import { versionPath } from '@/ui/kit/paths';
import { clsx } from 'clsx';
import rulesStyle from './rules.module.css';
import style from './versions-part.module.css';

interface VersionsPartProps {
  readonly rule: RuleView;
  /** Puts an earlier version into the sentence, to be looked at and saved. */
  readonly onTakeBack: (version: RuleVersionView) => void;
}

/** A rule's versions: what each changed of the one before, in words, and when it was live. An earlier one can be taken back. */
export function VersionsPart({ rule, onTakeBack }: VersionsPartProps) {
  const { data, error } = useRuleVersions(rule.id);
  const versions = data?.versions ?? [];
  if (versions.length < 2 && !versions[0]?.takenLive.length) return <ProblemNotice error={error} />;
  return (
    <section className={clsx('sheet', style.ruleVersions)} aria-label="Versions">
      <div className="sheet-head">
        <h2>Versions</h2>
        <span className="quiet">What was changed, and when it was live</span>
      </div>
      <ol>
        {versions.map((version, at) => (
          <VersionLine
            key={version.id}
            {...{ rule, version, onTakeBack }}
            before={versions[at + 1] ?? null}
          />
        ))}
      </ol>
    </section>
  );
}

interface VersionLineProps {
  readonly rule: RuleView;
  readonly version: RuleVersionView;
  readonly before: RuleVersionView | null;
  readonly onTakeBack: (version: RuleVersionView) => void;
}

function VersionLine({ rule, version, before, onTakeBack }: VersionLineProps) {
  const { number, isLatest, isLive, isTried, takenLive } = version;
  return (
    <li>
      <div>
        <strong>{`Version ${number}`}</strong> {isLive ? <span className="state-tag">Live</span> : null}
        {isTried ? <span className="state-tag">In pilot</span> : null}{' '}
        <span className="quiet">
          {[version.person, when(version.madeAt)].filter((one) => one !== null).join(', ')}
        </span>
        <Changed version={version} before={before} />
        {takenLive.map(({ at, person: by, proofs, held, reason, pilot }) => (
          <p key={at} className="quiet">
            {`${pilot ? `A pilot for ${pilot} from` : 'Taken live'} ${when(at)}${by ? ` by ${by}` : ''}; `}
            {proofs === 0
              ? 'it had no proof'
              : held === proofs
                ? `all ${proofs} proofs held`
                : `${held} of ${proofs} proofs held`}
            {reason ? `. Why all the same: “${reason}”` : ''}
          </p>
        ))}
      </div>
      <span className={rulesStyle.proofButtons}>
        {isLive ? null : (
          <ButtonLink
            href={versionPath(rule, version.id)}
            size="small"
            aria-label={`Compare version ${number} on the bench`}
          >
            Compare
          </ButtonLink>
        )}
        {isLatest ? null : (
          <MayButton
            right="writeRules"
            size="small"
            onClick={() => onTakeBack(version)}
            aria-label={`Take version ${number} back`}
          >
            Take it back
          </MayButton>
        )}
      </span>
    </li>
  );
}

/** A sentence with what went and what came, as against the version before. */
function Changed({ version, before }: { version: RuleVersionView; before: RuleVersionView | null }) {
  if (!before) return <p>{version.sentence}</p>;
  if (before.sentence === version.sentence) return <p className="quiet">The same in words.</p>;
  return (
    <p>
      <ChangedWords before={before.sentence} after={version.sentence} />
    </p>
  );
}
