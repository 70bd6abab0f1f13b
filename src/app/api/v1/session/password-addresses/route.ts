import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo } from '@/app/api/entering';
import { readInput } from '@/server/forms/input';
import { messageService } from '@/server/messages/message-services';
import { Refusal } from '@/server/refusal';
import { sendForgotten } from '@/server/sign-in/forgotten';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/session/password-addresses', {
  /** Sends whoever has forgotten their password an address by which they choose another; says nothing of whether there is such an account. */
  POST: async ({ json, client }) => {
    refuseInDemo();
    const { email } = readInput('forgotten', await json());
    const service = messageService();
    if (!service)
      throw new Refusal(
        409,
        'signIn.noMail',
        'This installation sends no mail. Ask whoever administers your workspace for an address to choose a password.',
      );
    await sendForgotten(email, client, service);
    return { status: 204 };
  },
});
