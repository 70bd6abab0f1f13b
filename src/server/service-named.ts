/** The one of several services that the installation names in a variable; `null` where it names none. Refuses one that isn't there. */
export function serviceNamed<S extends { readonly name: string }>(
  variable: string,
  services: readonly S[],
): S | null {
  const wanted = process.env[variable];
  if (!wanted) return null;
  const found = services.find(({ name }) => name === wanted);
  if (found) return found;
  const known = services.map(({ name }) => name).join(', ');
  throw new RangeError(`${variable} should be one of ${known}, found “${wanted}”.`);
}
