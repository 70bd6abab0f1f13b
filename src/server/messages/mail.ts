import { createTransport } from 'nodemailer';
import type { MessageService } from './message-service';
import { settings } from '@/server/settings';

/** Milliseconds that a mail server has for an answer. */
const PATIENCE = 20_000;

/** Sends messages as mail, by the server that OIKON_MAIL_URL names. Where the server offers to go on encrypted that is done; its certificate has to be good. */
export const mail: MessageService = {
  name: 'mail',
  async send({ to, subject, body }) {
    const { mail: how } = settings();
    if (!how) throw new Error('OIKON_MAIL_URL and OIKON_MAIL_FROM aren’t set.');
    const timeouts = { connectionTimeout: PATIENCE, greetingTimeout: PATIENCE, socketTimeout: PATIENCE };
    const transport = createTransport({
      url: how.url,
      ...timeouts,
      disableFileAccess: true,
      disableUrlAccess: true,
    });
    try {
      await transport.sendMail({
        from: how.from,
        to: { name: to.name, address: to.email },
        subject,
        text: body,
      });
    } finally {
      transport.close();
    }
  },
};
