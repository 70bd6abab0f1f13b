import type { ValueView } from '@/core/verify';
import kitStyle from '@/ui/kit/kit.module.css';

/** Before and after, side by side: the old struck through, the new as a rule's or as a person's. */
export function ValuePair({
  before,
  after,
  byRule = true,
}: {
  before: ValueView;
  after: ValueView;
  byRule?: boolean;
}) {
  return (
    <span className="value-pair">
      <s className="was">
        <span className="visually-hidden">before: </span>
        {before.text}
      </s>
      <span className={byRule ? 'now' : kitStyle.entered}>
        <span className="visually-hidden">after: </span>
        {after.text}
      </span>
    </span>
  );
}
