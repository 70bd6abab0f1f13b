import { numberSetting } from './setting';

const NAME = 'OIKON_TEST_SETTING';
afterEach(() => delete process.env[NAME]);

test.each([
  [undefined, 7],
  ['', 7],
  ['1', 1],
  ['250', 250],
])('a setting of %j is %d', (value, number) => {
  if (value !== undefined) process.env[NAME] = value;
  expect(numberSetting(NAME, 7, 250)).toBe(number);
});

test.each(['0', '251', '-1', '1.5', '1e2', ' 5', 'many', '9'.repeat(20)])(
  'a setting of %j is refused',
  (value) => {
    process.env[NAME] = value;
    expect(() => numberSetting(NAME, 7, 250)).toThrow(
      /OIKON_TEST_SETTING should be a whole number from 1 to 250/,
    );
  },
);
