import type { Message, MessageService } from '@/server/messages/message-service';

/** Takes every message and sends it nowhere: what it took is told in Today. One that is empty it refuses, as any service does. */
export const simulatedOutbox: MessageService = {
  name: 'simulated',
  send: ({ subject, body, to }: Message) =>
    subject.trim() && body.trim() && to.id
      ? Promise.resolve()
      : Promise.reject(new Error('The message has no subject, no text, or nobody to go to.')),
};
