'use client';

import { feelLanguage } from '@bpmn-io/lang-feel';
import { autocompletion, type CompletionContext, type CompletionResult } from '@codemirror/autocomplete';
import { HighlightStyle, LanguageSupport, syntaxHighlighting } from '@codemirror/language';
import { linter } from '@codemirror/lint';
import { EditorView, hoverTooltip } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import CodeMirror from '@uiw/react-codemirror';
import { useMemo, useRef } from 'react';
import { type PieceView, pieceWords } from '@/core/verify';
import { suggestionsAt } from './feel-completion';
import type { FeelInputProps } from './feel-props';
import { FunctionTable } from './function-table';
import { clsx } from 'clsx';
import style from './feel-editor.module.css';

const COLOURS = syntaxHighlighting(
  HighlightStyle.define([
    { tag: tags.keyword, color: 'var(--pine)', fontWeight: '600' },
    { tag: tags.string, color: 'var(--feel-text)' },
    { tag: tags.number, color: 'var(--feel-number)' },
    { tag: tags.bool, color: 'var(--feel-number)' },
    { tag: tags.null, color: 'var(--slate)' },
    { tag: tags.function(tags.variableName), color: 'var(--pine)' },
    { tag: tags.comment, color: 'var(--slate)', fontStyle: 'italic' },
  ]),
);

const LOOK = EditorView.theme({
  '&': { fontSize: '14px' },
  '&.cm-focused': { outline: 'none' },
  '.cm-content': {
    fontFamily: 'var(--mono)',
    fontVariantLigatures: 'none',
    padding: '8px 0',
    minHeight: '44px',
  },
  '.cm-line': { padding: '0 10px' },
  '.cm-tooltip': {
    fontSize: '13px',
    background: 'var(--sheet)',
    border: '1px solid var(--hairline)',
    borderRadius: '4px',
  },
  '.cm-tooltip.cm-tooltip-autocomplete > ul': { fontFamily: 'var(--mono)', maxHeight: '15em' },
  '.cm-tooltip.cm-tooltip-autocomplete > ul > li': { padding: '3px 10px', color: 'var(--ink)' },
  '.cm-tooltip.cm-tooltip-autocomplete > ul > li[aria-selected]': {
    background: 'var(--pine)',
    color: '#fff',
  },
  '.cm-completionDetail': {
    fontFamily: 'var(--text)',
    fontStyle: 'normal',
    marginLeft: '12px',
    opacity: '0.75',
  },
  '.cm-completionInfo': { fontFamily: 'var(--text)', padding: '8px 10px', maxWidth: '280px' },
  '.cm-diagnostic': { fontFamily: 'var(--text)', padding: '6px 10px' },
  '.cm-diagnostic-error': { borderLeft: '3px solid var(--alarm)' },
  '.feel-value': {
    fontFamily: 'var(--mono)',
    maxWidth: '440px',
    padding: '4px 8px',
    overflowWrap: 'anywhere',
  },
});

/** FEEL text with completion over the model, problems marked at their place, and the value of each piece under the pointer. */
export function FeelEditor({
  model,
  type,
  text,
  onChange,
  problem,
  pieces,
  label,
  placeholder,
  autoFocus,
}: FeelInputProps) {
  const extensions = useMemo(() => {
    const complete = (context: CompletionContext): CompletionResult | null => {
      if (!type) return null;
      const before = context.state.doc.sliceString(0, context.pos);
      const found = suggestionsAt(model, type, before);
      if (!found || (!context.explicit && found.from === context.pos && !before.endsWith('.'))) return null;
      return { from: found.from, options: [...found.suggestions], validFor: /^[\p{L}\p{N}_]*$/u };
    };
    return [
      new LanguageSupport(feelLanguage),
      // Whoever types quickly takes what is proposed at once: a new line is seldom meant here.
      autocompletion({ override: [complete], icons: false, interactionDelay: 0 }),
      COLOURS,
      LOOK,
      EditorView.lineWrapping,
      EditorView.contentAttributes.of({ 'aria-label': label }),
    ];
  }, [model, type, label]);
  const marks = useMemo(() => {
    const { from, to } = (problem?.data ?? {}) as { from?: number; to?: number };
    return linter(
      (view) => {
        if (!problem || from === undefined || to === undefined) return [];
        const end = view.state.doc.length;
        return [
          { from: Math.min(from, end), to: Math.min(to, end), severity: 'error', message: problem.message },
        ];
      },
      { delay: 150 },
    );
  }, [problem]);
  const values = useMemo(() => hoverTooltip((_, position) => tooltipAt(pieces ?? [], position)), [pieces]);
  const view = useRef<EditorView | null>(null);
  const insert = (text: string) => {
    if (!view.current) return;
    view.current.dispatch(view.current.state.replaceSelection(text));
    view.current.focus();
  };
  return (
    <>
      <CodeMirror
        onCreateEditor={(created) => {
          view.current = created;
        }}
        className={problem ? clsx(style.feelInput, style.feelWrong) : style.feelInput}
        value={text}
        onChange={onChange}
        extensions={[...extensions, marks, values]}
        placeholder={placeholder ?? ''}
        autoFocus={autoFocus ?? false}
        indentWithTab={false}
        theme="none"
        basicSetup={{
          ...{
            lineNumbers: false,
            foldGutter: false,
            highlightActiveLine: false,
            highlightActiveLineGutter: false,
          },
          ...{ autocompletion: false, searchKeymap: false, syntaxHighlighting: false, lintKeymap: true },
        }}
      />
      <FunctionTable onInsert={insert} />
    </>
  );
}

/** What a piece comes to: within a list on its first records, and how many more there are. */
function comesTo(piece: PieceView): string {
  const { within } = piece;
  if (!within) return pieceWords(piece);
  if (within.count === 0) return `nothing: there are no ${within.of}`;
  const more = within.count - within.each.length;
  return `${within.each.join(' · ')}${more > 0 ? ` · ${more} more` : ''} (on each of ${within.count} ${within.of})`;
}

/** The smallest piece under the pointer with what it comes to: `venue.galleryVolume = 1,460.8 m³`. */
function tooltipAt(pieces: NonNullable<FeelInputProps['pieces']>, position: number) {
  const over = pieces.filter(({ from, to }) => from <= position && position <= to);
  const [piece] = [...over].sort((a, b) => a.to - a.from - (b.to - b.from));
  if (!piece) return null;
  return {
    ...{ pos: piece.from, end: piece.to, above: true },
    create: () => {
      const dom = document.createElement('div');
      dom.className = 'feel-value';
      dom.textContent = `${piece.text} = ${comesTo(piece)}`;
      return { dom };
    },
  };
}
