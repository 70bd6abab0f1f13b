import { hash, verify } from '@node-rs/argon2';
import { dictionary } from '@zxcvbn-ts/language-common';

/** The package's `Algorithm.Argon2id`, which is a name for types alone. */
const ARGON2ID = 2;

/** argon2id with 19 MiB and two passes: OWASP's least for it (Password Storage Cheat Sheet). A hash says itself how it was made. */
const MADE: Parameters<typeof hash>[1] = {
  algorithm: ARGON2ID,
  memoryCost: 19_456,
  timeCost: 2,
  parallelism: 1,
};

/** Characters that a password has. Length makes it strong; of what it is made is its owner's to say (ASVS 2.1.1, 2.1.2, 2.1.9). */
export const LEAST = 12;
export const MOST = 128;

export const hashPassword = (password: string): Promise<string> => hash(normal(password), MADE);

/** What nobody's password is, so that one who isn't known is looked at for as long as one who is. */
let nobodys: Promise<string> | null = null;

/** Whether a password is the one of which a hash was made; of nobody's it isn't, after as long. */
export async function isPassword(made: string | null, password: string): Promise<boolean> {
  nobodys ??= hashPassword('what nobody has chosen for a password');
  const isRight = await verify(made ?? (await nobodys), normal(password));
  return isRight && made !== null;
}

/** One way to write what looks the same (ASVS 2.1.4 and NIST SP 800-63B 5.1.1.2); spaces count. */
const normal = (password: string): string => password.normalize('NFKC');

const common: ReadonlySet<string> = new Set(dictionary.passwords as readonly string[]);

/** Why a password can't be chosen, in words; `null` where it can. */
export function whyNot(
  password: string,
  { name, email }: { readonly name: string; readonly email: string },
): string | null {
  const text = normal(password);
  const length = [...text].length;
  if (length < LEAST || length > MOST)
    return `A password has ${LEAST} to ${MOST} characters, found ${length}. A few words that only you would put together are good.`;
  const folded = text.toLowerCase();
  const isCommon = common.has(folded) || common.has(folded.replace(/[^\p{L}]+$/u, ''));
  if (isCommon || new Set(folded).size < 5)
    return 'This is among the passwords that are tried first. Choose another: a few words that only you would put together are good.';
  const [local = ''] = email.toLowerCase().split('@');
  const own = [local, ...name.toLowerCase().split(/\s+/), 'oikon'].filter((one) => one.length > 2);
  const rest = own.reduce((left, one) => left.replaceAll(one, ''), folded);
  if ([...rest.replace(/\s/g, '')].length < LEAST / 2)
    return 'A password is more than one’s name or address. Choose another: a few words that only you would put together are good.';
  return null;
}
