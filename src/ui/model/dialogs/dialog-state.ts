import type { Named } from '@/core/verify';

/** Which dialog is open. */
export type Open =
  | { readonly kind: 'addType' }
  | { readonly kind: 'typeFromFile' }
  | { readonly kind: 'whereUsed'; readonly named: Named }
  | { readonly kind: 'addList' }
  | { readonly kind: 'changeList'; readonly list: string }
  | {
      readonly kind: 'changeType' | 'removeType' | 'addField' | 'addLink' | 'addSelection' | 'arrange';
      readonly type: string;
    }
  | {
      readonly kind: 'changeSelection' | 'removeSelection';
      readonly type: string;
      readonly selection: string;
    }
  | { readonly kind: 'addOpenLink' | 'order'; readonly type: string }
  | { readonly kind: 'changeOpenLink' | 'removeOpenLink'; readonly type: string; readonly open: string }
  | { readonly kind: 'changeField' | 'removeField'; readonly type: string; readonly field: string };
