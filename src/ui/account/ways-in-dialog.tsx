import { Dialog } from '@/ui/kit/dialog';
import { Passkeys } from './passkeys';
import { SecondStep } from './second-step';

/** How one signs in besides by a password, and after it. */
export const WaysInDialog = ({ onClose }: { onClose: () => void }) => (
  <Dialog open title="Passkeys and second step" footer={null} onCancel={onClose}>
    <Passkeys />
    <SecondStep />
  </Dialog>
);
