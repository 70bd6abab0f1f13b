import { diffWords } from 'diff';

/** A text with the words that went and those that came, as against another. */
export const ChangedWords = ({ before, after }: { readonly before: string; readonly after: string }) =>
  diffWords(before, after).map(({ value, added, removed }, at) =>
    added ? (
      <ins key={at}>{value}</ins>
    ) : removed ? (
      <del key={at}>{value}</del>
    ) : (
      <span key={at}>{value}</span>
    ),
  );
