/** Lets the browser save what an address of this server answers as a file. */
export function download(address: string): void {
  const link = Object.assign(document.createElement('a'), { href: address, download: '' });
  link.click();
}

/** Lets the browser save what was answered. */
export function saveFile(file: Blob, name: string): void {
  const address = URL.createObjectURL(file);
  const link = Object.assign(document.createElement('a'), { href: address, download: name });
  link.click();
  URL.revokeObjectURL(address);
}
