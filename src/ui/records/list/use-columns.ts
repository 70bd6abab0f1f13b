'use client';

import type { Field, Model } from '@/core/model';
import { useState } from 'react';
import { isTexts, useKept } from '@/ui/kit/hooks/use-kept';
import { listColumns } from '@/ui/records/words';

/** The fields that a list of a type shows beside the title: a person's own choice, kept in this browser. */
export function useColumns(
  model: Model,
  type: string,
  /** Those of a kept list: they stand beside a person's own choice, and don't change it. */
  ofList: readonly string[] | null = null,
): { chosen: readonly Field[]; choose: (keys: readonly string[]) => void; reset: () => void } {
  const [own, keep] = useKept<readonly string[] | null>(`oikon.columns.${type}`, null, isTexts);
  const [shown, show] = useState(ofList);
  const keys = ofList ? shown : own;
  const fields = model.type(type)?.fields ?? [];
  const chosen = keys
    ? fields.filter(({ key }) => keys.includes(key))
    : model.type(type)
      ? listColumns(model, type)
      : [];
  return {
    chosen,
    choose: (next) => (ofList ? show(next) : keep(next)),
    reset: () => (ofList ? show(ofList) : keep(null)),
  };
}
