/** Where one goes after signing in: a path of Oikon's own, whatever an address says. */
export function safePath(to: string | null): string {
  if (to === null || !/^\/(?![/\\])/.test(to)) return '/';
  const url = new URL(to, 'http://oikon.invalid');
  const isEntrance = url.pathname === '/sign-in' || url.pathname === '/welcome';
  return url.host === 'oikon.invalid' && !isEntrance ? `${url.pathname}${url.search}${url.hash}` : '/';
}
