import { Button } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { ShownSecret } from '@/ui/account/shown-secret';

interface AddressDialogProps {
  readonly name: string;
  /** What stands behind the # of the address. */
  readonly secret: string;
  readonly onClose: () => void;
}

/** The address by which somebody chooses their password: shown once, and handed to them by whoever sees it. */
export function AddressDialog({ name, secret, onClose }: AddressDialogProps) {
  const address = `${location.origin}/welcome#${secret}`;
  return (
    <Dialog
      open
      title={`An address for ${name}`}
      onCancel={onClose}
      footer={
        <>
          <Button onClick={() => void navigator.clipboard.writeText(address)}>Copy it</Button>
          <Button type="primary" onClick={onClose}>
            Done
          </Button>
        </>
      }
    >
      <p>
        Hand it to {name} yourself: whoever opens it chooses the password. It is good for a day, once, and
        isn’t shown again.
      </p>
      <ShownSecret text={address} />
    </Dialog>
  );
}
