'use client';

import type { ModelView } from '@/core/api';
import { Checkbox, Input, Segmented, Select } from 'antd';
import { useState } from 'react';
import { usePeople } from '@/ui/api/queries';
import { FileChoice } from '@/ui/intake/file-choice';
import { handFiles } from '@/ui/intake/handed-file';
import { readHead, zoneHere } from '@/ui/intake/read-head';
import { type Table, tablesOf } from '@/ui/intake/tables';
import { Dialog } from '@/ui/kit/dialog';
import { useTask } from '@/ui/kit/hooks/use-task';
import { useRouter } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { TemplateColumns } from './template-columns';
import { draftsOf, type DraftedType, type Making, makingOf, openQuestions, textsOf } from './template-model';
import { useApplyChanges, useModelRehearsal } from '@/ui/model/dialogs/use-changes';
import { WouldDo } from '@/ui/model/dialogs/would-do';
import style from './template-dialog.module.css';

interface TemplateProps {
  readonly model: ModelView;
  readonly onClose: () => void;
  readonly onMade: (type: string) => void;
}

/** What was read of a file: its tables, and the types that they suggest. */
interface Read {
  readonly file: File;
  readonly tables: readonly Table[];
  readonly drafts: readonly DraftedType[];
}

/** Makes types from a file, one of each of its tables: columns become fields, of kinds that their values suggest; then the rows can be taken in. */
export function TemplateDialog({ model, onClose, onMade }: TemplateProps) {
  const people = usePeople();
  const [file, setFile] = useState<File | null>(null);
  const [found, setFound] = useState<Read | null>(null);
  const { error, isBusy, run } = useTask();
  const readAll = async (chosen: File): Promise<Read> => {
    const tables = await tablesOf(chosen);
    const heads = await Promise.all(
      tables.map(async ({ called, file: one }) => ({ called, ...(await readHead(one)) })),
    );
    const named = new Set((people.data?.people ?? []).map(({ name }) => name.toLowerCase()));
    return {
      ...{ file: chosen, tables },
      drafts: draftsOf(heads, { types: model.types, people: named, timeZone: zoneHere() }),
    };
  };
  const read = (chosen: File) => {
    setFile(chosen);
    setFound(null);
    return run(() => readAll(chosen), null, setFound);
  };
  if (found)
    return (
      <Template
        key={`${found.file.name} ${found.file.lastModified} ${found.file.size}`}
        {...{ model, found, onClose, onMade }}
        onFile={(chosen) => void read(chosen)}
      />
    );
  return (
    <Dialog open title="Types of record from a file" width={980} footer={null} onCancel={onClose}>
      <FileChoice file={file} onFile={(chosen) => void read(chosen)} />
      {isBusy ? <p role="status">Reading the file …</p> : null}
      <ProblemNotice error={error} />
      <p className="quiet">
        Its columns become fields; of a workbook each sheet becomes a type, and links between sheets are
        found. You see and change what is proposed before anything is made, and can take the rows in
        afterwards.
      </p>
    </Dialog>
  );
}

interface OpenTemplateProps extends TemplateProps {
  readonly found: Read;
  readonly onFile: (file: File) => void;
}

function Template({ model, found, onClose, onMade, onFile }: OpenTemplateProps) {
  const router = useRouter();
  const [drafts, setDrafts] = useState(found.drafts);
  const [shown, setShown] = useState(0);
  const [goesOn, setGoesOn] = useState(true);
  const questions = openQuestions(drafts);
  const making = questions.length === 0 ? makingOf(drafts, model.types) : null;
  const { rehearsal, error, isCurrent } = useModelRehearsal(making && [...making.changes]);
  const { apply, isBusy, error: refused } = useApplyChanges(model.version);
  const make = async ({ made, changes }: Making) => {
    const [first] = made;
    const names = made.map(({ draft }) => draft.name.trim()).join(', ');
    if (!first || !(await apply([...changes], `${names} ${made.length === 1 ? 'is' : 'are'} added.`))) return;
    onMade(first.key);
    onClose();
    if (!goesOn) return;
    handFiles(
      made.flatMap(({ draft, key, columns }) => {
        const table = found.tables[drafts.findIndex(({ id }) => id === draft.id)];
        return table ? [{ type: key, plural: draft.plural, file: table.file, columns }] : [];
      }),
    );
    router.push(`/records/${first.key}/import`);
  };
  const write = (next: Partial<DraftedType>) =>
    setDrafts(drafts.map((one, at) => (at === shown ? { ...one, ...next } : one)));
  const draft = drafts[shown];
  const wanted = drafts.filter(({ isWanted }) => isWanted).length;
  return (
    <Dialog
      open
      title={drafts.length === 1 ? 'A type of record from a file' : 'Types of record from a file'}
      width={980}
      okText={wanted === 1 ? 'Add the type' : `Add ${wanted} types`}
      okButtonProps={{ disabled: !making || !isCurrent || !(rehearsal?.isPossible ?? false) }}
      confirmLoading={isBusy}
      onOk={() => void (making && make(making))}
      onCancel={onClose}
    >
      <FileChoice file={found.file} onFile={onFile} />
      {drafts.length > 1 && draft ? (
        <div className={style.templateTables}>
          <Segmented
            aria-label="Tables of the file"
            value={shown}
            options={drafts.map(({ called, isWanted }, at) => ({
              value: at,
              label: isWanted ? called : `${called} (left out)`,
            }))}
            onChange={setShown}
          />
          <Checkbox checked={draft.isWanted} onChange={(event) => write({ isWanted: event.target.checked })}>
            Make a type of this table
          </Checkbox>
        </div>
      ) : null}
      {draft ? <DraftedTypeForm {...{ draft, model, drafts }} key={draft.id} onChange={write} /> : null}
      <p>
        <Checkbox checked={goesOn} onChange={(event) => setGoesOn(event.target.checked)}>
          Then take in the rows of the {wanted === 1 ? 'file' : 'tables, one after another'}
        </Checkbox>
      </p>
      {questions.map(({ id, message }) => (
        <p key={`${id} ${message}`} className="finding">
          {message}
        </p>
      ))}
      <WouldDo rehearsal={rehearsal} error={error} isCurrent={isCurrent} />
      <ProblemNotice error={refused} />
    </Dialog>
  );
}

interface DraftedTypeProps {
  readonly draft: DraftedType;
  readonly drafts: readonly DraftedType[];
  readonly model: ModelView;
  readonly onChange: (next: Partial<DraftedType>) => void;
}

/** The names and columns of a type that is made of a table. */
function DraftedTypeForm({ draft, drafts, model, onChange }: DraftedTypeProps) {
  const { name, plural, title, columns, proposal } = draft;
  const texts = textsOf(draft);
  const targets = [
    ...drafts
      .filter((one) => one.isWanted)
      .map((one) => ({ key: one.id, name: one === draft ? `${one.name} (itself)` : one.name })),
    ...model.types.map((one) => ({ key: one.key, name: one.name })),
  ];
  return (
    <>
      <div className={style.templateNames}>
        <label>
          Name
          <Input
            aria-label="Name"
            maxLength={80}
            value={name}
            placeholder="one of them: Loan"
            onChange={(event) => onChange({ name: event.target.value })}
          />
        </label>
        <label>
          Name of several
          <Input
            aria-label="Name of several"
            maxLength={80}
            value={plural}
            onChange={(event) => onChange({ plural: event.target.value })}
          />
        </label>
        <label>
          Records are named by
          <Select
            aria-label="Records are named by"
            value={texts.some(({ proposed }) => proposed.heading === title) ? title : null}
            placeholder="a text that every row has"
            options={texts.map(({ proposed, name: called }) => ({ value: proposed.heading, label: called }))}
            onChange={(heading) => onChange({ title: heading })}
          />
        </label>
      </div>
      <TemplateColumns {...{ columns, targets, proposal }} onChange={(next) => onChange({ columns: next })} />
    </>
  );
}
