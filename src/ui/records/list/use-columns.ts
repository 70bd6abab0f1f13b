'use client';

import type { Field, Model } from '@/core/model';
import { useState } from 'react';
import { listColumns } from '@/ui/records/words';

/** The fields that a list of a type shows beside the title: a person's own choice, kept in this browser. */
export function useColumns(
  model: Model,
  type: string,
  /** Those of a kept list: they stand beside a person's own choice, and don't change it. */
  ofList: readonly string[] | null = null,
): { chosen: readonly Field[]; choose: (keys: readonly string[]) => void; reset: () => void } {
  const place = `oikon.columns.${type}`;
  const [keys, setKeys] = useState<readonly string[] | null>(() => ofList ?? read(place));
  const fields = model.type(type)?.fields ?? [];
  const chosen = keys
    ? fields.filter(({ key }) => keys.includes(key))
    : model.type(type)
      ? listColumns(model, type)
      : [];
  return {
    chosen,
    choose: (next) => {
      if (!ofList) localStorage.setItem(place, JSON.stringify(next));
      setKeys(next);
    },
    reset: () => {
      if (!ofList) localStorage.removeItem(place);
      setKeys(ofList);
    },
  };
}

function read(place: string): readonly string[] | null {
  if (typeof localStorage === 'undefined') return null;
  try {
    const stored: unknown = JSON.parse(localStorage.getItem(place) ?? 'null');
    return Array.isArray(stored) && stored.every((key) => typeof key === 'string') ? stored : null;
  } catch {
    return null; // somebody else wrote there: as to begin with
  }
}
