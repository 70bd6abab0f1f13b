'use client';

import type { RuleDefinition } from '@/core/rules';
import { useState } from 'react';
import { useRecords, useRuleSample } from '@/ui/api/queries';

interface TellingSample {
  /** The record with which to begin; `null` while it isn't known, or where there is none. */
  readonly first: string | null;
  /** Whether the type has no records at all. */
  readonly isEmpty: boolean;
}

/**
 * The record on which a rule is shown first: where something counts and something doesn't, as it stood when its sentence was first whole. What is
 * changed in the sentence then is seen on the same record.
 */
export function useTellingSample(type: string | null, definition: RuleDefinition | null): TellingSample {
  const [whole, setWhole] = useState<RuleDefinition | null>(null);
  const asked = definition?.type === type ? definition : null;
  if (whole?.type !== type && asked) setWhole(asked);
  const telling = useRuleSample(whole?.type === type ? whole : null);
  const isTold = asked !== null && telling.data?.id != null;
  const any = useRecords(isTold || (asked !== null && telling.isPending) ? null : type, { limit: 50 });
  const plain = any.data?.records.find((record) => record.type === type)?.id ?? null;
  // Until it is known which tells most none is shown, so that one doesn't give way to another before one's eyes.
  const isWaiting = asked !== null && telling.isPending;
  return {
    first: isWaiting ? null : (telling.data?.id ?? plain),
    isEmpty: !isTold && any.data?.records.length === 0,
  };
}
