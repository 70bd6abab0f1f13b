'use client';

import { Button } from 'antd';
import { Dialog } from '@/ui/kit/dialog';

interface ManyDialogProps {
  /** How many records may follow, and by which rule. */
  readonly message: string;
  readonly isBusy: boolean;
  readonly onClose: () => void;
  readonly onChosen: (when: 'now' | 'soonAfter') => void;
}

/** Very many records would follow from a save: it is said before anything is saved. */
export function ManyDialog({ message, isBusy, onClose, onChosen }: ManyDialogProps) {
  return (
    <Dialog
      open
      title="This reaches very many records"
      onCancel={onClose}
      footer={[
        <Button key="back" onClick={onClose}>
          Go back
        </Button>,
        <Button key="soon" disabled={isBusy} onClick={() => onChosen('soonAfter')}>
          Save soon after
        </Button>,
        <Button key="now" type="primary" loading={isBusy} onClick={() => onChosen('now')}>
          Save now
        </Button>,
      ]}
    >
      <p>{message}</p>
      <p className="quiet">
        Saved soon after, you can go on at once: Oikon saves it in your name within the minute, and it waits
        in Today until then. Either way it is one run: all of it or nothing.
      </p>
    </Dialog>
  );
}
