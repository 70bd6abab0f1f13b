import { readerOf, type Row } from '../engine';
import {
  describe,
  evaluatorOf,
  type Expression,
  Failure,
  fieldsRead,
  OUTSIDE,
  partsOf,
  readFeel,
  type Span,
  type Typed,
  typeValue,
} from '../expression';
import type { CompiledFormula } from '../rules';
import { namesIn, problemWords, valueView, type ValueView, type ViewContext } from './views';

/** A piece of a formula with what it comes to on a record. */
export interface PieceView extends Span {
  readonly text: string;
  /** `null` where it lies outside the family. */
  readonly value: ValueView | null;
  readonly problem: string | null;
  /** Whether it is a field, and so a piece that isn't made of others. */
  readonly isField: boolean;
}

/** How a formula comes to its value on one record. */
export interface FormulaView {
  /** The expression as it was written; in words where it wasn't written as text. */
  readonly text: string;
  /** Whether it applies to this record; `null` where that can't be told. */
  readonly applies: boolean | null;
  /** Pieces of the text, those that hold others before what they hold. */
  readonly pieces: readonly PieceView[];
}

export function formulaView(context: ViewContext, rule: CompiledFormula, row: Row): FormulaView {
  const { model, store } = context;
  const reader = readerOf(model, store);
  const { appliesWhen, definition } = rule;
  const verdict = appliesWhen ? evaluatorOf(appliesWhen)(row, reader.given, reader.beneath) : true;
  const applies = typeof verdict === 'boolean' ? verdict : null;
  const { value } = definition;
  if (value.kind !== 'feel') {
    const pieces = fieldsRead(rule.value).map((field) =>
      pieceView(context, row, field, { from: 0, to: 0 }, describe(model, field, namesIn(context))),
    );
    return { text: describe(model, rule.value, namesIn(context)), applies, pieces };
  }
  return { text: value.text, applies, pieces: piecesOf(context, definition.type, value.text, row) };
}

/** What each piece of FEEL text comes to on a record; none while it can't be read. */
export function piecesOf(context: ViewContext, type: string, text: string, row: Row): PieceView[] {
  const read = readFeel(context.model, type, text);
  if (!read.ok) return [];
  const { expression, spans } = read.value;
  const pieces: PieceView[] = [];
  const go = (node: Expression) => {
    const span = spans.get(node);
    const typed = span && node.kind !== 'constant' ? typeValue(context.model, type, node) : null;
    if (span && typed?.ok)
      pieces.push(pieceView(context, row, typed.value, span, text.slice(span.from, span.to)));
    // What is gathered is read on other records, one by one.
    if (node.kind !== 'gather') for (const [, part] of partsOf(node)) go(part);
  };
  go(expression);
  return pieces;
}

function pieceView(context: ViewContext, row: Row, typed: Typed, span: Span, text: string): PieceView {
  const reader = readerOf(context.model, context.store);
  const worked = evaluatorOf(typed)(row, reader.given, reader.beneath);
  const known = worked === OUTSIDE || worked instanceof Failure ? null : worked;
  return {
    ...{ text, from: span.from, to: span.to, isField: typed.kind === 'field' },
    value: worked === OUTSIDE ? null : valueView(typed.type, known, namesIn(context)),
    problem: worked instanceof Failure ? problemWords(worked.code) : null,
  };
}
