/** What a browser says where no key was used, in words: most often somebody has thought better of it. */
export function inKeyWords(error: unknown): never {
  const { name, message } = error as Error;
  if (name === 'InvalidStateError')
    throw new Error('This device or key has a passkey of yours already. Use it, or another device.');
  if (name === 'NotAllowedError' || name === 'AbortError')
    throw new Error('No passkey was used: it was put off, or took too long. Try again when you are ready.');
  throw new Error(`The browser couldn’t use a passkey here (${message}).`);
}
