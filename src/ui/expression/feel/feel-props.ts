import type { Model } from '@/core/model';
import type { Problem } from '@/core/values';
import type { PieceView } from '@/core/verify';

export interface FeelInputProps {
  readonly model: Model;
  /** The type on whose records it is read; `null` while it isn't chosen. */
  readonly type: string | null;
  readonly text: string;
  readonly onChange: (text: string) => void;
  /** What is wrong with it, with its place in the text. */
  readonly problem: Problem | null;
  /** What its pieces come to on the record of the worked example. */
  readonly pieces?: readonly PieceView[];
  readonly label: string;
  readonly placeholder?: string;
  readonly autoFocus?: boolean;
}
