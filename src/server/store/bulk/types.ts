import type { AnyCompiled } from '@/core/rules';

export interface Filled {
  readonly rule: AnyCompiled;
  /** How many values it wrote, or records it made. */
  readonly records: number;
}
