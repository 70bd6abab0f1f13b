import type { Explanation, MemberView } from '@/core/verify';
import type { ReactNode } from 'react';
import { BlankGlyph, CountsGlyph, LeftOutGlyph } from '../theme/glyphs';

const STANDINGS: Record<
  MemberView['standing'],
  { readonly name: string; readonly glyph: typeof CountsGlyph }
> = {
  counts: { name: 'counts', glyph: CountsGlyph },
  leftOut: { name: 'left out', glyph: LeftOutGlyph },
  empty: { name: 'empty', glyph: BlankGlyph },
  outside: { name: 'outside this family', glyph: BlankGlyph },
  error: { name: 'has a problem', glyph: BlankGlyph },
};

export interface ExplanationTableProps {
  readonly explanation: Explanation;
  /** Makes a title or a value something to press. */
  readonly linkTo?: (member: MemberView) => ReactNode;
  readonly openValue?: (member: MemberView) => ReactNode;
  /** Stands below the members while not all of them are here. */
  readonly more?: ReactNode;
}

/** Who counts and who doesn't, and which test left them out. Those that count come first. */
export function ExplanationTable({ explanation, linkTo, openValue, more }: ExplanationTableProps) {
  const { members, children } = explanation;
  if (members.length === 0) {
    return (
      <div className="nothing">
        <strong>No {children.name.toLowerCase()}</strong>“{explanation.record.title}” has none, so the value
        for none stands.
      </div>
    );
  }
  const counted = members.filter((member) => member.standing === 'counts');
  const others = members.filter((member) => member.standing !== 'counts');
  const hasValue = members.some((member) => member.value !== null);
  return (
    <table className="members">
      <thead>
        <tr>
          <th scope="col">{children.name}</th>
          {hasValue ? (
            <th scope="col" className="amount">
              Value
            </th>
          ) : null}
          <th scope="col">In or out</th>
        </tr>
      </thead>
      <tbody>
        {[...counted, ...others].map((member) => (
          <tr
            key={member.id}
            data-standing={
              member.value?.wire === null && member.standing === 'leftOut' ? 'empty' : member.standing
            }
          >
            <td>{linkTo ? linkTo(member) : member.title}</td>
            {hasValue ? (
              <td className="amount">{openValue && member.opens ? openValue(member) : member.value?.text}</td>
            ) : null}
            <td>
              <Standing member={member} />
            </td>
          </tr>
        ))}
      </tbody>
      {more ? (
        <tbody>
          <tr>
            <td colSpan={hasValue ? 3 : 2}>{more}</td>
          </tr>
        </tbody>
      ) : null}
      {counted.length > 0 ? <Together explanation={explanation} hasValue={hasValue} /> : null}
    </table>
  );
}

/** What those that count come to. */
function Together({ explanation, hasValue }: { explanation: Explanation; hasValue: boolean }) {
  const { result, counted, words } = explanation;
  return (
    <tfoot>
      <tr>
        <th scope="row">
          The {words} of {counted.toLocaleString('en-GB')}
        </th>
        {hasValue ? (
          <td className="amount">{result ? (result.problem ? '' : result.value.text) : ''}</td>
        ) : null}
        <td>{hasValue || !result ? null : result.value.text}</td>
      </tr>
    </tfoot>
  );
}

function Standing({ member }: { member: MemberView }) {
  const { name, glyph: Glyph } = STANDINGS[member.standing];
  return (
    <span className="standing">
      <Glyph size={16} />
      <span>
        {name}
        {member.reasons.map((reason) => (
          <span key={reason.test} className="reason">
            fails “{reason.test}”: here {reason.found}
          </span>
        ))}
        {member.standing === 'empty' ? <span className="reason">there is no value to bring in</span> : null}
        {member.standing === 'error' ? (
          <span className="reason">what it reads couldn’t be worked out</span>
        ) : null}
      </span>
    </span>
  );
}
