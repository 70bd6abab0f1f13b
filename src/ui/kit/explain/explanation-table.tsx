'use client';

import { firstIn, writeCount } from '@/core/values';
import {
  type Explanation,
  type MapView,
  type MemberView,
  type OwnView,
  type SourceView,
  type Tree,
} from '@/core/verify';
import { type ReactNode, useState } from 'react';
import { BlankGlyph, CountsGlyph, LeftOutGlyph } from '@/ui/theme/glyphs';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';

const STANDINGS: Record<
  MemberView['standing'],
  { readonly name: string; readonly glyph: typeof CountsGlyph }
> = {
  counts: { name: 'counts', glyph: CountsGlyph },
  leftOut: { name: 'left out', glyph: LeftOutGlyph },
  behind: { name: 'isn’t the one', glyph: LeftOutGlyph },
  again: { name: 'counted already', glyph: LeftOutGlyph },
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

/** The records that a value is made of, in words: those of one route by their name. */
export const recordsWords = ({ sources }: Explanation): string =>
  sources.length === 1 ? firstIn(firstIn(sources).name.split(' of its ')).toLowerCase() : 'records';

/** Who counts and who doesn't, and which test left them out. Those that count come first, route by route. */
export function ExplanationTable(props: ExplanationTableProps) {
  const { explanation, more } = props;
  const { members, own } = explanation;
  if (members.length === 0 && own.length === 0) {
    return (
      <div className="nothing">
        <strong>No {recordsWords(explanation)}</strong>“{explanation.record.title}” has none, so the value for
        none stands.
      </div>
    );
  }
  const hasValue = own.length > 0 || members.some((member) => member.value !== null);
  const columns = hasValue ? 3 : 2;
  const isUsed = own.some((one) => one.isUsed && one.role !== 'whenNone');
  return (
    <table className={kitStyle.members}>
      {own.length > 0 ? <OwnRows explanation={explanation} /> : null}
      {explanation.sources.map((source, at) => (
        <SourceRows key={at} {...props} {...{ source, at, hasValue }} />
      ))}
      {more ? (
        <tbody>
          <tr>
            <td colSpan={columns}>{more}</td>
          </tr>
        </tbody>
      ) : null}
      {explanation.counted > 0 || isUsed ? <Together explanation={explanation} hasValue={hasValue} /> : null}
    </table>
  );
}

const ROLES: Record<OwnView['role'], { readonly used: string; readonly unused: string }> = {
  adds: { used: 'is added', unused: 'nothing to add' },
  standsIn: { used: 'stands in for all below', unused: 'not entered, so all below count' },
  whenNone: { used: 'stands, as none count', unused: 'would stand if none counted' },
};

/** What the record itself gives. */
function OwnRows({ explanation }: { explanation: Explanation }) {
  return (
    <>
      <thead>
        <tr>
          <th scope="col">Its own</th>
          <th scope="col" className="amount">
            Value
          </th>
          <th scope="col">In or out</th>
        </tr>
      </thead>
      <tbody>
        {explanation.own.map(({ role, name, value, isUsed }) => (
          <tr key={role} data-standing={isUsed ? 'counts' : 'unasked'}>
            <td>{name}</td>
            <td className="amount">{value.text}</td>
            <td>
              <span className={kitStyle.standing}>
                {isUsed ? <CountsGlyph size={16} /> : <BlankGlyph size={16} />}
                <span>{ROLES[role][isUsed ? 'used' : 'unused']}</span>
              </span>
            </td>
          </tr>
        ))}
      </tbody>
    </>
  );
}

/** Up to so many are seen at once, whatever comes first. */
const FEW = 5;

/** The records of one route: those that count first, or those that don't. */
function SourceRows({
  explanation,
  source,
  at,
  hasValue,
  linkTo,
  openValue,
}: ExplanationTableProps & { source: SourceView; at: number; hasValue: boolean }) {
  const members = explanation.members.filter((member) => member.source === at);
  const counted = members.filter((member) => member.standing === 'counts');
  const others = members.filter((member) => member.standing !== 'counts');
  const [isTurned, setTurned] = useState(false);
  return (
    <>
      <thead>
        <tr>
          <th scope="col">{source.name}</th>
          {hasValue ? (
            <th scope="col" className="amount">
              Value
            </th>
          ) : null}
          <th scope="col">
            In or out{' '}
            {members.length > FEW && counted.length > 0 && others.length > 0 ? (
              <button
                type="button"
                className={clsx('plain', kitStyle.turn)}
                aria-pressed={isTurned}
                onClick={() => setTurned(!isTurned)}
              >
                {isTurned ? 'those that count first' : 'left out first'}
              </button>
            ) : null}
          </th>
        </tr>
      </thead>
      <tbody>
        {source.total === 0 ? (
          <tr data-standing="empty">
            <td colSpan={hasValue ? 3 : 2} className="quiet">
              There are none.
            </td>
          </tr>
        ) : null}
        {(isTurned ? [...others, ...counted] : [...counted, ...others]).map((member, index) => (
          <tr
            key={`${member.id} ${index}`}
            data-standing={
              member.value?.wire === null && member.standing === 'leftOut' ? 'empty' : member.standing
            }
          >
            <td>
              {linkTo ? linkTo(member) : member.title}
              {member.order === null ? null : (
                <span className={kitStyle.reason}>in order: {member.order}</span>
              )}
              {member.through === null ? null : (
                <span className={kitStyle.reason}>through {member.through}</span>
              )}
            </td>
            {hasValue ? (
              <td className="amount">
                {openValue && member.opens ? openValue(member) : member.value?.text}
                {member.exchanged === null ? null : (
                  <span className={kitStyle.reason}>{member.exchanged}</span>
                )}
              </td>
            ) : null}
            <td>
              <Standing member={member} />
            </td>
          </tr>
        ))}
      </tbody>
    </>
  );
}

/** What those that count come to. */
function Together({ explanation, hasValue }: { explanation: Explanation; hasValue: boolean }) {
  const { counted, words, own, unseen } = explanation;
  const result = explanation.map ? explanation.map.given : explanation.result;
  const isQuestion = ['all', 'any', 'none'].includes(words);
  const added = own.filter(({ role, isUsed }) => role === 'adds' && isUsed).length;
  if (own.some(({ role, isUsed }) => role === 'standsIn' && isUsed)) return null;
  if (explanation.members.some(({ order }) => order !== null)) return null;
  return (
    <tfoot>
      <tr>
        <th scope="row">
          {isQuestion ? words.replace(/^./u, (first) => first.toUpperCase()) : `The ${words}`} of{' '}
          {unseen ? `these ${writeCount(counted + added)} and others` : writeCount(counted + added)}
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
    <span className={kitStyle.standing}>
      <Glyph size={16} />
      <span>
        {name}
        {member.reasons.map((reason) => (
          <span key={reason.test} className={kitStyle.reason}>
            fails “{reason.test}”: here {reason.found}
          </span>
        ))}
        {member.standing === 'empty' ? (
          <span className={kitStyle.reason}>there is no value to bring in</span>
        ) : null}
        {member.standing === 'error' ? (
          <span className={kitStyle.reason}>{member.problem ?? 'what it reads couldn’t be worked out'}</span>
        ) : null}
      </span>
    </span>
  );
}

/** Which result writes what, and which of these holds here. */
export function MapTable({ explanation, map }: { explanation: Explanation; map: MapView }) {
  const { given, rows, isReacting, applies } = map;
  const found = given === null ? 'outside this family' : (given.problem ?? given.value.text);
  return (
    <table className={clsx('map', kitStyle.members)}>
      <caption className="quiet">
        The result is {found === '' ? 'empty' : found}.{' '}
        {applies === false ? 'The rule doesn’t apply to this record as it stands. ' : ''}
        {isReacting
          ? `When that changes, ${explanation.field.name} becomes:`
          : `${explanation.field.name} becomes:`}
      </caption>
      <tbody>
        {rows.map(({ when, writes, isChosen }) => (
          <tr key={when} data-standing={isChosen ? 'counts' : 'unasked'}>
            <td>{writes}</td>
            <td>
              <span className={kitStyle.standing}>
                {isChosen ? <CountsGlyph size={16} /> : <BlankGlyph size={16} />}
                <span>
                  {when}
                  {isChosen ? <span className={kitStyle.reason}>so it is here</span> : null}
                </span>
              </span>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** The way down of a rule that goes all the way down: what each record gives by itself, and with its parts. */
export function TreeTable({ explanation, tree }: { explanation: Explanation; tree: Tree }) {
  return (
    <table className={clsx(kitStyle.members, kitStyle.tree)}>
      <caption className="quiet">All the way down</caption>
      <thead>
        <tr>
          <th scope="col">{explanation.record.title} and its parts</th>
          <th scope="col" className="amount">
            By itself
          </th>
          <th scope="col" className="amount">
            With its parts
          </th>
        </tr>
      </thead>
      <tbody>
        {tree.rows.map(({ id, title, depth, own, result, isStandingIn }, index) => (
          <tr key={`${id} ${index}`} data-standing="counts">
            <td style={{ paddingLeft: 16 + Math.min(depth, 12) * 16 }}>{title}</td>
            <td className="amount">{own}</td>
            <td className="amount">
              {result}
              {isStandingIn ? <span className={kitStyle.reason}>its own stands in</span> : null}
            </td>
          </tr>
        ))}
      </tbody>
      {tree.more > 0 ? (
        <tfoot>
          <tr>
            <td colSpan={3}>{writeCount(tree.more)} more lie further down.</td>
          </tr>
        </tfoot>
      ) : null}
    </table>
  );
}
