/** A message to a person. */
export interface Message {
  readonly to: { readonly id: string; readonly name: string; readonly email: string };
  readonly subject: string;
  readonly body: string;
}

/** Brings messages to people, outside Oikon. A message that it can't take is tried again. */
export interface MessageService {
  readonly name: string;
  send(message: Message): Promise<void>;
}
