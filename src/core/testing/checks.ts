import { type Model, type RecordType, readModel } from '@/core/model';
import { GALLERIES } from './galleries';

const link = (key: string, name: string, target: string) =>
  ({ key, name, otherEnd: 'Checks', type: { kind: 'link', target }, whenParentGoes: 'delete' }) as const;

/** A type for tests that hangs under a loan or an artefact by an open link, and has a serial number. */
export const CHECK: RecordType = {
  ...{ key: 'check', name: 'Check', plural: 'Checks', title: 'title' },
  fields: [
    { key: 'title', name: 'Title', type: { kind: 'text' }, required: true },
    { key: 'number', name: 'Number', type: { kind: 'serial', prefix: 'C-', digits: 3 } },
    link('loan', 'Loan', 'loan'),
    link('artefact', 'Artefact', 'artefact'),
  ],
  openLinks: [{ key: 'concerns', name: 'Concerns', links: ['loan', 'artefact'], required: true }],
};

export const withChecks = (check: RecordType = CHECK): Model =>
  readModel({ types: [...GALLERIES.types, check] });
