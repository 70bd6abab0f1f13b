import { readerOf, type Row } from '@/core/engine';
import { typeIn } from '@/core/model';
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
  type TypedGather,
  typeValue,
} from '@/core/expression';
import { type CompiledAlone, type CompiledLinked, findWords, wayWordsOf } from '@/core/rules';
import { type SeveralView, severalView } from './sources-view';
import { namesIn, problemWords, valueView, type ValueView, type ViewContext } from './views';

/** A piece of a formula with what it comes to on a record. */
export interface PieceView extends Span {
  readonly text: string;
  /** `null` where it lies outside the family. */
  readonly value: ValueView | null;
  readonly problem: string | null;
  /** Whether it is a field, and so a piece that isn't made of others. */
  readonly isField: boolean;
  /** Of a piece within a list: how many records that has, and what it comes to on the first of them. */
  readonly within: { readonly of: string; readonly count: number; readonly each: readonly string[] } | null;
}

/** How a formula comes to its value on one record. */
export interface FormulaView {
  /** The expression as it was written; in words where it wasn't written as text. */
  readonly text: string;
  /** Whether it applies to this record; `null` where that can't be told. */
  readonly applies: boolean | null;
  /** Pieces of the text, those that hold others before what they hold. */
  readonly pieces: readonly PieceView[];
  /** Of what is kept in step where several may cascade: those that do. */
  readonly several?: SeveralView;
}

export function formulaView(context: ViewContext, rule: CompiledAlone, row: Row): FormulaView {
  const { model, store } = context;
  const reader = readerOf(model, store);
  const { appliesWhen, definition } = rule;
  const verdict = appliesWhen ? evaluatorOf(appliesWhen)(row, reader.given, reader.beneath) : true;
  const applies = typeof verdict === 'boolean' ? verdict : null;
  if (rule.kind === 'linked') return { ...linkedPieces(context, rule, row), applies };
  const value = definition.kind === 'formula' ? definition.value : null;
  const several = rule.kind === 'keptCascade' && rule.several ? severalView(context, rule, row) : null;
  if (several) return { text: describe(model, rule.value, namesIn(context)), applies, pieces: [], several };
  if (value?.kind !== 'feel') {
    const pieces = fieldsRead(rule.value).map((field) =>
      pieceView(context, row, field, { from: 0, to: 0 }, describe(model, field, namesIn(context))),
    );
    return { text: describe(model, rule.value, namesIn(context)), applies, pieces };
  }
  return { text: value.text, applies, pieces: piecesOf(context, definition.type, value.text, row) };
}

/** What a link rule goes by on a record: the way, or what must be the same. */
function linkedPieces(
  context: ViewContext,
  { find }: CompiledLinked,
  row: Row,
): Omit<FormulaView, 'applies'> {
  const { model } = context;
  const read = find.kind === 'route' ? [find.value] : find.keys.flatMap(({ value }) => fieldsRead(value));
  const pieces = read.map((field) =>
    pieceView(context, row, field, { from: 0, to: 0 }, describe(model, field, namesIn(context))),
  );
  return { text: find.kind === 'route' ? wayWordsOf(model, find) : findWords(model, find), pieces };
}

/** Most records of a list on which a piece within it is shown. */
const MOST_SHOWN = 5;

/** What each piece of FEEL text comes to on a record, and those within lists on the records of the list; none while it can't be read. */
export function piecesOf(context: ViewContext, type: string, text: string, row: Row): PieceView[] {
  const { model, store } = context;
  const read = readFeel(model, type, text);
  if (!read.ok) return [];
  const { expression, spans } = read.value;
  const pieces: PieceView[] = [];
  const reader = readerOf(model, store);
  /** `rows`: the records on which a piece within a list is read, one by one; `null` for the record itself. */
  const go = (node: Expression, at: string, rows: readonly Row[] | null) => {
    const span = spans.get(node);
    const typed = node.kind === 'constant' ? null : typeValue(model, at, node);
    if (span && typed?.ok) {
      const words = text.slice(span.from, span.to);
      const pieceOn = (one: Row | null) => pieceView(context, one, typed.value, span, words);
      const shown = rows ? rows.slice(0, MOST_SHOWN).map(pieceOn) : [];
      const within = rows && {
        ...{ of: typeIn(model, at).plural, count: rows.length },
        each: shown.map(pieceWords),
      };
      pieces.push({ ...(shown[0] ?? pieceOn(rows ? null : row)), within });
    }
    if (node.kind !== 'gather') for (const [, part] of partsOf(node)) go(part, at, rows);
    else if (typed?.ok && typed.value.kind === 'gather') {
      const { member } = typed.value;
      const members = (rows ?? [row]).map((one) => reader.beneath(one, typed.value as TypedGather));
      const known = members.flatMap((some) => (some === OUTSIDE ? [] : some));
      for (const [, part] of partsOf(node)) go(part, member, known);
    }
  };
  go(expression, type, null);
  return pieces;
}

/** What a piece comes to, in words. */
export const pieceWords = ({ value, problem }: Pick<PieceView, 'value' | 'problem'>): string =>
  problem ?? value?.text ?? 'outside this family';

/** `row`: `null` where a list has no records. */
function pieceView(context: ViewContext, row: Row | null, typed: Typed, span: Span, text: string): PieceView {
  const reader = readerOf(context.model, context.store);
  const worked = row ? evaluatorOf(typed)(row, reader.given, reader.beneath) : null;
  const known = worked === OUTSIDE || worked instanceof Failure ? null : worked;
  return {
    ...{ text, from: span.from, to: span.to, isField: typed.kind === 'field', within: null },
    value: worked === OUTSIDE ? null : valueView(typed.type, known, namesIn(context)),
    problem: worked instanceof Failure ? problemWords(worked.code) : null,
  };
}
