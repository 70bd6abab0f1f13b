/** The person who acts in tests. */
export const TESTER = {
  id: '00000000-0000-7000-8000-0000000000ee',
  name: 'Tess Tester',
  email: 'tess@oikon.invalid',
  role: 'Administrator',
};
