import { randomBytes } from 'node:crypto';

/** What every answer says of how a browser may use it (OWASP Secure Headers; ASVS 14.4). */
export function safeHeaders(isHttps: boolean): Readonly<Record<string, string>> {
  return {
    'X-Content-Type-Options': 'nosniff',
    'Referrer-Policy': 'no-referrer',
    'Cross-Origin-Resource-Policy': 'same-origin',
    'Cross-Origin-Opener-Policy': 'same-origin',
    'X-Frame-Options': 'DENY',
    'Permissions-Policy': 'camera=(), geolocation=(), microphone=(), payment=(), usb=()',
    ...(isHttps ? { 'Strict-Transport-Security': 'max-age=31536000' } : {}),
  };
}

/** What an answer or a file may load, were it opened by itself. A worker is a file that loads more of its script, and asks the API. */
export const FILE_POLICY =
  "default-src 'none'; script-src 'self'; connect-src 'self'; style-src 'unsafe-inline'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'";

export const newNonce = (): string => randomBytes(16).toString('base64');

/**
 * What a page may load and run: its own, and of scripts within it only those that the server itself wrote for this answer. Styles may stand within it: the
 * interface sets widths and heights, and they run nothing.
 */
export const pagePolicy = (nonce: string): string =>
  [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}'`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');
