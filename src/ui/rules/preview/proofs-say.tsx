'use client';

import type { JointPreview } from '@/core/api';
import { Input } from 'antd';
import style from './live-preview.module.css';

interface ProofsSayProps {
  readonly proofs: JointPreview['proofs'];
  /** How many rules they are about. */
  readonly rules?: number;
  readonly reason: string;
  readonly onReason: (reason: string) => void;
}

/** What proofs say of it; where some don't hold it is asked why it should go live all the same. */
export function ProofsSay({ proofs: { proofs, held, missed }, rules = 1, reason, onReason }: ProofsSayProps) {
  if (missed.length === 0)
    return (
      <p className={proofs === 0 ? 'advice' : 'quiet'}>
        {proofs === 0
          ? `No proof covers ${rules === 1 ? 'this rule' : 'these rules'}: nothing will tell when a later change makes ${rules === 1 ? 'it' : 'them'} wrong.`
          : held === 1
            ? 'Its proof holds.'
            : `All ${held} proofs hold.`}
      </p>
    );
  return (
    <section className={style.liveProofs} aria-label="Proofs that don’t hold">
      <strong>
        {missed.length === 1 ? 'A proof doesn’t hold then' : `${missed.length} proofs don’t hold then`}
      </strong>
      <ul>
        {missed.slice(0, MOST_MISSED).map(({ rule, name, says }) => (
          <li key={`${rule.id} ${name}`}>
            {name} <span className="quiet">of “{rule.name}”</span>
            {says.slice(0, 2).map((line) => (
              <p key={line}>{line}</p>
            ))}
          </li>
        ))}
      </ul>
      {missed.length > MOST_MISSED ? <p>And {missed.length - MOST_MISSED} more.</p> : null}
      <label>
        Why {rules === 1 ? 'it' : 'they'} should go live all the same
        <Input.TextArea
          value={reason}
          maxLength={2_000}
          autoSize={{ minRows: 2, maxRows: 5 }}
          placeholder="Kept with the version, for whoever asks later"
          onChange={(event) => onReason(event.target.value)}
        />
      </label>
    </section>
  );
}

/** Proofs that are told one by one. */
const MOST_MISSED = 5;
