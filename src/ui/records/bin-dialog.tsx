'use client';

import { writeCount } from '@/core/values';
import type { WireRecord } from '@/core/verify';
import { RehearsedDialog, type Waves } from './rehearsed-dialog';

export interface BinDialogProps {
  readonly records: readonly WireRecord[];
  /** What it is about: a record's title in quotes, or how many there are. */
  readonly title: string;
  readonly kind: 'delete' | 'restore';
  readonly onDone: () => void;
  readonly onClose: () => void;
}

const WORDS = {
  delete: {
    ...{ verb: 'Delete', past: 'deleted', first: 'Goes into the bin', also: ', or loses its link' },
    done: 'In the bin now, to be restored from there if need be.',
  },
  restore: {
    ...{ verb: 'Restore', past: 'restored', first: 'Comes back', also: ', or has its link again' },
    done: 'Restored.',
  },
} as const;

/** Before records go into the bin or come back: what would go along, which links change, and what follows. */
export function BinDialog({ records, title, kind, onDone, onClose }: BinDialogProps) {
  const { verb, past, done, first, also: linked } = WORDS[kind];
  const edits = records.map(({ type, id, version }) => ({ kind, type, id, version }));
  const lead = (waves: Waves) => {
    const { going, links } = countsOf(waves);
    const what = going === 1 ? 'Only this record' : `${writeCount(going)} records`;
    const also = links > 0 ? `, and ${writeCount(links)} ${links === 1 ? 'link' : 'links'} change` : '';
    return `${what} would be ${past}${also}. What follows:`;
  };
  return (
    <RehearsedDialog
      title={`${verb} ${title}`}
      edits={edits}
      okText={(waves) => {
        const { going } = countsOf(waves);
        return going > 1 ? `${verb} ${writeCount(going)} records` : verb;
      }}
      isDanger={kind === 'delete'}
      lead={lead}
      firstName={(waves) => (countsOf(waves).links > 0 ? `${first}${linked}` : first)}
      done={done}
      onDone={onDone}
      onClose={onClose}
    />
  );
}

function countsOf(waves: Waves): { going: number; links: number } {
  const entered = waves.find(({ number }) => number === 0)?.changes ?? [];
  const going = entered.filter((change) => change.kind !== 'field').length;
  return { going, links: entered.length - going };
}
