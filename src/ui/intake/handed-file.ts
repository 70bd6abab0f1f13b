let handed: File | null = null;

/** Hands a chosen file on to the next page. */
export const handFile = (file: File): void => void (handed = file);

/** The file that was cascaded, once. */
export function takeFile(): File | null {
  const file = handed;
  handed = null;
  return file;
}
