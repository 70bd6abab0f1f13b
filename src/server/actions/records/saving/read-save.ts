import { type ReadEdits, readEdits } from '@/core/engine';
import type { RunContext } from '@/core/expression';
import { v7 as newId } from 'uuid';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { runContextNow } from '@/server/store/write/run-context';
import type { RunInfo } from '@/server/store/write/run-row';
import type { SaveInput } from './save';

/** A save as it is read against a workspace that was compiled. */
export interface ReadSave {
  readonly read: ReadEdits;
  readonly facts: RunContext;
  readonly info: RunInfo;
  readonly isPersonKnown: boolean;
}

export function readSave(
  { model, plan, people }: LoadedWorkspace,
  { edits, person, note = '' }: SaveInput,
): ReadSave {
  const facts = runContextNow(person);
  return {
    read: readEdits({ model, plan, edits, people, newId }),
    facts,
    info: { kind: 'save', person, note, at: facts.moment },
    isPersonKnown: person === null || people.has(person),
  };
}
