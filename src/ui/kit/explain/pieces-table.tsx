'use client';

import { writeCount } from '@/core/values';
import { type FormulaView, type PieceView, pieceWords, type SeveralView } from '@/core/verify';
import { CountsGlyph, LeftOutGlyph } from '@/ui/theme/glyphs';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';

const SEVERAL: Record<SeveralView['sources'][number]['standing'], string> = {
  leads: 'comes first',
  behind: 'another comes first',
  givesNothing: 'has nothing to give',
};

/** Those that may cascade to a record, in the order in which they come first. */
function SeveralTable({ several: { plural, sources, more } }: { several: SeveralView }) {
  if (sources.length === 0)
    return (
      <div className="nothing">
        <strong>No {plural}</strong>None cascades to it, so what stands there stands, and people may enter it.
      </div>
    );
  return (
    <table className={kitStyle.members}>
      <thead>
        <tr>
          <th scope="col">{plural}</th>
          <th scope="col">Gives</th>
          <th scope="col">Which comes first</th>
        </tr>
      </thead>
      <tbody>
        {sources.map(({ id, title, standing, value, problem }) => (
          <tr key={id} data-standing={standing === 'leads' ? 'counts' : 'leftOut'}>
            <td>{title}</td>
            <td>{problem ?? (standing === 'givesNothing' ? '' : value?.text || 'empty')}</td>
            <td>
              <span className={kitStyle.standing}>
                {standing === 'leads' ? <CountsGlyph size={16} /> : <LeftOutGlyph size={16} />}
                <span>{SEVERAL[standing]}</span>
              </span>
            </td>
          </tr>
        ))}
      </tbody>
      {more > 0 ? (
        <tfoot>
          <tr>
            <td colSpan={3}>{writeCount(more)} more come after these.</td>
          </tr>
        </tfoot>
      ) : null}
    </table>
  );
}

/** What the pieces of a formula come to: first its fields, then what is made of them. */
export function PiecesTable({ formula }: { formula: FormulaView }) {
  if (formula.several) return <SeveralTable several={formula.several} />;
  const seen = new Set<string>();
  const pieces = formula.pieces.filter(
    ({ text, within }) => within === null && !seen.has(text) && seen.add(text),
  );
  const fields = pieces.filter(({ isField }) => isField);
  const made = pieces.filter(({ isField }) => !isField).reverse();
  const row = (piece: PieceView) => (
    <tr key={`${piece.from} ${piece.text}`} data-standing="counts">
      <td className={kitStyle.piece}>{piece.text.replace(/\s+/g, ' ')}</td>
      <td className="amount">{pieceWords(piece)}</td>
    </tr>
  );
  return (
    <table className={clsx('pieces', kitStyle.members)}>
      <thead>
        <tr>
          <th scope="col">Piece of the expression</th>
          <th scope="col" className="amount">
            Here it is
          </th>
        </tr>
      </thead>
      <tbody>{[...fields, ...made].map(row)}</tbody>
    </table>
  );
}
