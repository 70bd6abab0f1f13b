'use client';

import { writeCount } from '@/core/values';
import { openBundle } from '@/core/intake';
import type { WorkspaceView } from '@/core/api';
import { Input, Upload } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useState } from 'react';
import { useTask } from '@/ui/kit/hooks/use-task';
import { callText } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { placePath } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';

/** A chosen bundle: its text, and what stands at its head. */
export interface ChosenBundle {
  readonly file: string;
  readonly text: string;
  readonly name: string;
  readonly records: number | null;
}

/** Reads a bundle's head in the browser, so that another kind of file is told at once. Refuses (throws) that. */
export function readChosen(file: string, text: string): ChosenBundle {
  const opened = openBundle(text);
  if (!opened.ok) throw new Error(opened.problem.message);
  const { workspace, records } = opened.value as { workspace?: { name?: unknown }; records?: unknown };
  return {
    ...{ file, text, name: typeof workspace?.name === 'string' ? workspace.name : '' },
    records: Array.isArray(records) ? records.length : null,
  };
}

/** Chooses a bundle by dialog or by dropping it. */
export function BundleChoice({
  chosen,
  onChosen,
}: {
  chosen: ChosenBundle | null;
  onChosen: (bundle: ChosenBundle) => void;
}) {
  const { error, run } = useTask();
  return (
    <div>
      <Upload.Dragger
        accept=".json"
        showUploadList={false}
        beforeUpload={(file) => {
          void run(async () => readChosen(file.name, await file.text()), null, onChosen);
          return false;
        }}
      >
        {chosen ? (
          <span>
            <strong>{chosen.file}</strong>{' '}
            <span className="quiet">
              bundle of “{chosen.name}”
              {chosen.records === null ? ', without records' : `, with ${writeCount(chosen.records)} records`}
            </span>{' '}
            · Choose another
          </span>
        ) : (
          <span>Choose a bundle, or drop it here: a JSON file that Oikon exported</span>
        )}
      </Upload.Dragger>
      <ProblemNotice error={error} />
    </div>
  );
}

/** Makes a workspace of a bundle. */
export function BundleDialog({ onClose }: { onClose: () => void }) {
  const [chosen, setChosen] = useState<ChosenBundle | null>(null);
  const [name, setName] = useState('');
  const [isMade, setMade] = useState(false);
  const { isBusy, error, run } = useTask();
  const { id: person } = usePerson();
  const make = ({ text }: ChosenBundle) =>
    run(
      () => callText<WorkspaceView>(`/api/v1/bundles?name=${encodeURIComponent(name.trim())}`, text, person),
      null,
      (made) => {
        setMade(true);
        location.assign(placePath(made.key, '/rules'));
      },
    );
  return (
    <Dialog
      open
      title="A workspace from a bundle"
      okText="Make it"
      cancelText="Not now"
      okButtonProps={{ disabled: !chosen || name.trim() === '', loading: isBusy || isMade }}
      onOk={() => chosen && void make(chosen)}
      onCancel={onClose}
    >
      <BundleChoice
        chosen={chosen}
        onChosen={(bundle) => {
          setChosen(bundle);
          setName(bundle.name);
        }}
      />
      {chosen ? (
        <p>
          <Input
            aria-label="Name of the new workspace"
            maxLength={60}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
          <span className="quiet">Rules that are live in the bundle are live in the new workspace.</span>
        </p>
      ) : null}
      <ProblemNotice error={error} />
    </Dialog>
  );
}
