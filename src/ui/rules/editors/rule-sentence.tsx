'use client';

import type { ReactNode } from 'react';
import type { PieceView } from '@/core/verify';
import { byKind } from '@/core/values';
import { CascadeEditor } from './cascade-editor';
import { CreateEditor } from './create-editor';
import type { EditorProps } from './editor-props';
import type { Draft } from '@/ui/rules/drafts/drafts';
import { FormulaEditor } from './formula-editor';
import { LinkEditor } from './link-editor';
import { RollUpEditor } from './roll-up-editor';

interface SentenceProps extends EditorProps<Draft> {
  /** What each part of a formula comes to on the example. */
  readonly pieces: readonly PieceView[];
}

/** The sentence of a rule of any kind, to be written. */
export const RuleSentence = (props: SentenceProps) => EDITORS(props.draft, props);

/** By kind, each with its own draft. */
const EDITORS = byKind<Draft, [props: SentenceProps], ReactNode>({
  rollUp: ({ of }, { onChange, ...props }) => (
    <RollUpEditor {...props} draft={of} onChange={(next) => onChange({ kind: 'rollUp', of: next })} />
  ),
  formula: ({ of }, { onChange, ...props }) => (
    <FormulaEditor {...props} draft={of} onChange={(next) => onChange({ kind: 'formula', of: next })} />
  ),
  cascade: ({ of }, { onChange, ...props }) => (
    <CascadeEditor {...props} draft={of} onChange={(next) => onChange({ kind: 'cascade', of: next })} />
  ),
  create: ({ of }, { onChange, ...props }) => (
    <CreateEditor {...props} draft={of} onChange={(next) => onChange({ kind: 'create', of: next })} />
  ),
  link: ({ of }, { onChange, ...props }) => (
    <LinkEditor {...props} draft={of} onChange={(next) => onChange({ kind: 'link', of: next })} />
  ),
});
