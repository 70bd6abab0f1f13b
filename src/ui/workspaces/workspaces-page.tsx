'use client';

import type { WorkspaceView } from '@/core/api';
import { PlusOutlined } from '@ant-design/icons';
import { Button, Checkbox, Dropdown, Form, Input, Radio } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useState } from 'react';
import { callServer } from '@/ui/api/client';
import { useInvalidate, useWorkspaces } from '@/ui/api/queries';
import { download } from '@/ui/kit/download';
import { Loading } from '@/ui/kit/loading';
import { placePath } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ActingAs } from '@/ui/shell/acting-as';
import { AnyPersonProvider, usePerson } from '@/ui/api/person';
import { useSession } from '@/ui/api/session';
import { BundleDialog } from './bundle-dialog';
import { InstallationHistory } from './installation-history';
import { SecurityLedger } from './security-ledger';
import { OikonMark } from '@/ui/theme/glyphs';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './workspaces-page.module.css';

type Open =
  | { readonly kind: 'new'; readonly copyOf: WorkspaceView | null }
  | { readonly kind: 'bundle' }
  | { readonly kind: 'rename' | 'remove'; readonly workspace: WorkspaceView };

/** Every workspace of this installation: opened, made, copied, renamed and removed. */
export function WorkspacesPage() {
  return (
    <AnyPersonProvider>
      <Workspaces />
    </AnyPersonProvider>
  );
}

function Workspaces() {
  const { data, error } = useWorkspaces();
  const [open, setOpen] = useState<Open | null>(null);
  const { isDemo, person } = useSession();
  /** Whether whoever is here sees to the installation itself. */
  const overlooks = isDemo || person?.isOperator === true;
  return (
    <main className="place">
      <header className="place-head">
        <OikonMark size={26} />
        <h1>Workspaces</h1>
        <span className="place-lead">Each has its own model, rules and records.</span>
        <div className="place-actions">
          <ActingAs />
          {overlooks ? (
            <>
              <Button onClick={() => setOpen({ kind: 'bundle' })}>From a bundle</Button>
              <Button
                type="primary"
                icon={<PlusOutlined />}
                onClick={() => setOpen({ kind: 'new', copyOf: null })}
              >
                New workspace
              </Button>
            </>
          ) : null}
        </div>
      </header>
      <div className="place-body">
        <ProblemNotice error={error} />
        {data ? (
          <WorkspaceList workspaces={data.workspaces} overlooks={overlooks} onOpen={setOpen} />
        ) : error ? null : (
          <Loading what="the workspaces" />
        )}
        {overlooks ? <InstallationHistory /> : null}
        {overlooks && !isDemo ? <SecurityLedger /> : null}
      </div>
      {open?.kind === 'new' ? <NewDialog copyOf={open.copyOf} onClose={() => setOpen(null)} /> : null}
      {open?.kind === 'bundle' ? <BundleDialog onClose={() => setOpen(null)} /> : null}
      {open?.kind === 'rename' ? (
        <RenameDialog workspace={open.workspace} onClose={() => setOpen(null)} />
      ) : null}
      {open?.kind === 'remove' ? (
        <RemoveDialog workspace={open.workspace} onClose={() => setOpen(null)} />
      ) : null}
    </main>
  );
}

function WorkspaceList({
  workspaces,
  overlooks,
  onOpen,
}: {
  workspaces: readonly WorkspaceView[];
  /** Whether whoever is here sees to the installation itself. */
  overlooks: boolean;
  onOpen: (open: Open) => void;
}) {
  if (workspaces.length === 0) {
    return (
      <div className="sheet nothing">
        <strong>There is no workspace yet</strong>
        {overlooks
          ? 'Make one, then add types of record to it, or bring them in from a CSV file.'
          : 'Nobody has let you into one. Ask whoever administers it.'}
      </div>
    );
  }
  return (
    <ul className={clsx('sheet', style.workspaceList)}>
      {workspaces.map((workspace) => (
        <li key={workspace.key}>
          {/* A whole new page: nothing that is shown of one workspace lives on in another. */}
          <a href={placePath(workspace.key, '/today')}>{workspace.name}</a>
          <Dropdown
            trigger={['click']}
            menu={{
              items: [
                { key: 'false', label: 'Model, rules and lists' },
                { key: 'true', label: 'These and all records' },
              ],
              onClick: ({ key }) => download(`${pathOf(workspace)}/bundle?records=${key}`),
            }}
          >
            <Button size="small" aria-label={`Export ${workspace.name} as a bundle`}>
              Export
            </Button>
          </Dropdown>
          {overlooks ? (
            <>
              <Button
                size="small"
                aria-label={`Copy ${workspace.name}`}
                onClick={() => onOpen({ kind: 'new', copyOf: workspace })}
              >
                Copy
              </Button>
              <Button
                size="small"
                aria-label={`Rename ${workspace.name}`}
                onClick={() => onOpen({ kind: 'rename', workspace })}
              >
                Rename
              </Button>
              <Button
                size="small"
                danger
                aria-label={`Remove ${workspace.name}`}
                onClick={() => onOpen({ kind: 'remove', workspace })}
              >
                Remove
              </Button>
            </>
          ) : null}
        </li>
      ))}
    </ul>
  );
}

/** What a dialog of this page does: everything that is shown is read again after it. */
function useChange(onDone: () => void) {
  const forget = useInvalidate();
  const { id: person } = usePerson();
  const { run, isBusy, error } = useTask();
  const change = (work: (person: string | null) => Promise<unknown>, done: string) =>
    run(
      async () => {
        await work(person);
        await forget.everything();
      },
      () => done,
      onDone,
    );
  return { run: change, isBusy, error };
}

const pathOf = ({ key }: WorkspaceView): string => `/api/v1/workspaces/${key}`;

function NewDialog({ copyOf, onClose }: { copyOf: WorkspaceView | null; onClose: () => void }) {
  const [name, setName] = useState(copyOf ? `${copyOf.name} – trial` : '');
  const [withRecords, setWithRecords] = useState(true);
  const [timeZone, setTimeZone] = useState(() => Intl.DateTimeFormat().resolvedOptions().timeZone);
  const { run, isBusy, error } = useChange(onClose);
  const make = () =>
    run(
      async (person) => {
        const body = copyOf ? { name, copyOf: copyOf.key, withRecords } : { name, timeZone };
        const made = await callServer<WorkspaceView>('/api/v1/workspaces', { method: 'POST', body, person });
        if (!copyOf) location.assign(placePath(made.key, '/model'));
      },
      copyOf ? `“${name}” is ready.` : 'Made.',
    );
  return (
    <Dialog
      open
      title={copyOf ? `Copy “${copyOf.name}”` : 'New workspace'}
      okText={copyOf ? 'Copy' : 'Make'}
      cancelText="Not now"
      okButtonProps={{ loading: isBusy, disabled: name.trim() === '' }}
      onOk={() => void make()}
      onCancel={onClose}
    >
      <Form layout="vertical" onSubmitCapture={(event) => event.preventDefault()}>
        <Form.Item label="Name" htmlFor="workspace-name">
          <Input
            id="workspace-name"
            autoFocus
            maxLength={60}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Form.Item>
        {copyOf ? (
          <Radio.Group
            aria-label="What is copied"
            value={withRecords}
            onChange={(event) => setWithRecords(event.target.value as boolean)}
            className={kitStyle.stacked}
            options={[
              { value: true, label: 'Model, rules and all records with their history' },
              { value: false, label: 'Model and rules only' },
            ]}
          />
        ) : (
          <Form.Item
            label="Time zone"
            htmlFor="workspace-zone"
            help="Where its days begin and end, such as Europe/London."
          >
            <Input
              id="workspace-zone"
              value={timeZone}
              onChange={(event) => setTimeZone(event.target.value)}
            />
          </Form.Item>
        )}
        {copyOf ? (
          <p className="quiet">
            What is done in the copy doesn’t touch “{copyOf.name}”. Rules that are live there are live in the
            copy.
          </p>
        ) : null}
      </Form>
      <ProblemNotice error={error} />
    </Dialog>
  );
}

function RenameDialog({ workspace, onClose }: { workspace: WorkspaceView; onClose: () => void }) {
  const [name, setName] = useState(workspace.name);
  const { run, isBusy, error } = useChange(onClose);
  const rename = () =>
    run((person) => callServer(pathOf(workspace), { method: 'PATCH', body: { name }, person }), 'Renamed.');
  return (
    <Dialog
      open
      title={`Rename “${workspace.name}”`}
      okText="Rename"
      cancelText="Not now"
      okButtonProps={{ loading: isBusy, disabled: name.trim() === '' || name === workspace.name }}
      onOk={() => void rename()}
      onCancel={onClose}
    >
      <Input
        aria-label="Name"
        autoFocus
        maxLength={60}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <p className="quiet">Its address stays: /w/{workspace.key}</p>
      <ProblemNotice error={error} />
    </Dialog>
  );
}

function RemoveDialog({ workspace, onClose }: { workspace: WorkspaceView; onClose: () => void }) {
  const [confirmation, setConfirmation] = useState('');
  const [isSure, setSure] = useState(false);
  const { run, isBusy, error } = useChange(onClose);
  return (
    <Dialog
      open
      title={`Remove “${workspace.name}”`}
      okText="Remove for good"
      cancelText="Not now"
      okButtonProps={{ danger: true, loading: isBusy, disabled: confirmation !== workspace.name || !isSure }}
      onOk={() =>
        void run(
          (person) => callServer(pathOf(workspace), { method: 'DELETE', body: { confirmation }, person }),
          `“${workspace.name}” is removed.`,
        )
      }
      onCancel={onClose}
    >
      <p>
        Its model, rules, records and their whole history are removed, and can’t be brought back. Type its
        name to confirm: <strong>{workspace.name}</strong>
      </p>
      <Input
        aria-label="The workspace’s name"
        autoFocus
        value={confirmation}
        onChange={(event) => setConfirmation(event.target.value)}
      />
      <p>
        <Checkbox checked={isSure} onChange={(event) => setSure(event.target.checked)}>
          I know that nothing of it is kept
        </Checkbox>
      </p>
      <ProblemNotice error={error} />
    </Dialog>
  );
}
