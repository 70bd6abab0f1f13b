import fc from 'fast-check';

/** Texts that have broken programs before. */
export const NASTY = [
  ...[
    '',
    ' ',
    '\u0000',
    'a\u0000b',
    '\ud800',
    'e\u0301',
    '\u202etxet',
    '😀',
    '﷽',
    '\\',
    "'; DROP TABLE loan; --",
    '%',
    '_',
  ],
  ...[
    'null',
    'NaN',
    'Infinity',
    '-0',
    '1e400',
    '0x10',
    '9'.repeat(40),
    `0.${'1'.repeat(40)}`,
    '-'.repeat(3),
    '1,5',
  ],
  ...[
    '0000-01-01',
    '9999-12-31',
    '10000-01-01',
    '2027-02-30',
    '2027-13-01T00:00:00Z',
    'XXX',
    '__proto__',
    'constructor',
  ],
  ...['id', 'version', 'deleted_run', 'title', 'stage', 'insuredValue', 'exhibition', 'x'.repeat(600)],
];
/** Texts, some of them ids that there are. */
export const textsWith = (ids: readonly string[]) =>
  fc.oneof(fc.constantFrom(...NASTY), fc.string({ unit: 'binary', maxLength: 12 }), fc.constantFrom(...ids));

export const scalarsWith = (anyText: fc.Arbitrary<string>) =>
  fc.oneof(
    anyText,
    fc.constantFrom(null, true, false, 0, -1, 1.5, 1e308, Number.MAX_SAFE_INTEGER),
    fc.record({ amount: anyText, currency: fc.constantFrom('GBP', 'EUR', 'XXX', 'gbp', '') }),
  );

/** JSON of any shape. */
export const jsonOf = (
  anyText: fc.Arbitrary<string>,
  anyScalar: fc.Arbitrary<unknown>,
): fc.Arbitrary<unknown> =>
  fc.letrec((tie) => ({
    tree: fc.oneof(
      { depthSize: 'small', withCrossShrink: true },
      anyScalar,
      fc.array(tie('tree'), { maxLength: 4 }),
      fc.dictionary(anyText, tie('tree'), { maxKeys: 4 }),
    ),
  })).tree;
