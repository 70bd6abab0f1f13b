import type { Value, ErrorCode } from '@/core/values';

/**
 * What a member gives to a roll-up:
 *
 * | condition                    | value    | contribution |
 * | ---------------------------- | -------- | ------------ |
 * | can't be decided for an error | any     | error        |
 * | can't be decided, outside    | any      | outside      |
 * | false                        | any      | left out     |
 * | true or none                 | error    | error        |
 * | true or none                 | outside  | outside      |
 * | true or none                 | empty    | empty        |
 * | true or none                 | value    | counts       |
 */
export type Contribution =
  | { readonly kind: 'counts'; readonly value: Value }
  | { readonly kind: 'leftOut' | 'empty' | 'outside' }
  | { readonly kind: 'error'; readonly error: ErrorCode };
