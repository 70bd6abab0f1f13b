/** Lets the browser save what an address of this server answers as a file. */
export function download(address: string): void {
  const link = Object.assign(document.createElement('a'), { href: address, download: '' });
  link.click();
}
