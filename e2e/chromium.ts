/** Debian's Chromium, quiet, and asking nothing of the network by itself. */
export const CHROMIUM = {
  executablePath: '/usr/bin/chromium-headless-shell',
  args: [
    ...['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run'],
    ...['--disable-background-networking', '--disable-component-update', '--disable-sync'],
  ],
};
