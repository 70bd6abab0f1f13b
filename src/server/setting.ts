/** A whole number that the installation sets by a variable, from 1 up to `most`; `otherwise` where it sets none. Refuses anything else, in words. */
export function numberSetting(name: string, otherwise: number, most = 9_999): number {
  const value = process.env[name];
  if (value === undefined || value === '') return otherwise;
  const number = Number(value);
  if (/^[1-9]\d{0,8}$/.test(value) && number <= most) return number;
  throw new RangeError(`${name} should be a whole number from 1 to ${most}, found “${value}”.`);
}
