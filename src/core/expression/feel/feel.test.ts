import { workedInCore } from '@/core/testing/feel-worked';
import { CASES_MODEL, FEEL_CASES } from '@/core/testing/feel-cases';
import {
  asTests,
  FUNCTIONS,
  functionEntry,
  isFunction,
  LIST_FUNCTIONS,
  printFeel,
  readFeel,
  typeValue,
} from '@/core/expression';

const wrong = (text: string) => {
  const typed = typeValue(CASES_MODEL, 'thing', { kind: 'feel', text });
  if (typed.ok) return 'nothing is wrong';
  const { from, to } = typed.problem.data as { from: number; to: number };
  return `${text.slice(from, to)}: ${typed.problem.message}`;
};

test('there are at least 300 cases', () => {
  expect(FEEL_CASES.length).toBeGreaterThanOrEqual(300);
});

test.each(FEEL_CASES)('%s is %s', (text, comesTo) => {
  expect(workedInCore(text)).toBe(comesTo);
});

describe('printed and read again, an expression is the same', () => {
  const cases = FEEL_CASES.filter(([text]) => !/\bfor\b|satisfies/.test(text));
  test.each(cases)('%s', (text, comesTo) => {
    const read = readFeel(CASES_MODEL, 'thing', text);
    const printed = read.ok ? printFeel(CASES_MODEL, 'thing', read.value.expression) : null;
    expect(workedInCore(printed!)).toBe(comesTo);
  });
});

describe('a condition written as text and as tests', () => {
  test.each([
    ['size > 2', 'size > 2'],
    ['isOpen and stage = "mid"', 'isOpen = true and stage = "mid"'],
    [
      'not(stage in ("low", "high") or number = null)',
      'not((stage = "low" or stage = "high") or number = null)',
    ],
    ['at.volume >= 10 or contains(title, "x")', 'at.volume >= 10 or contains(title, "x")'],
    ['price > 12.5', 'price > 12.50'],
    ['on < date("2028-02-01")', 'on < date("2028-02-01")'],
  ])('%s can be shown as tests, and these say %s', (text, again) => {
    const tests = asTests(CASES_MODEL, 'thing', text);
    expect(tests && printFeel(CASES_MODEL, 'thing', tests)).toBe(again);
  });
  test.each(['size + 1 > 2', 'on > today()', 'number', 'size >'])('%s can’t', (text) => {
    expect(asTests(CASES_MODEL, 'thing', text)).toBeNull();
  });
});

describe('every function of the table', () => {
  const examples = Object.keys(FUNCTIONS).flatMap((name) =>
    isFunction(name) ? functionEntry(name).examples.map((example) => [...example] as const) : [],
  );
  test.each(examples)('%s is %s, as its help says', (text, comesTo) => {
    expect(workedInCore(text)).toBe(workedInCore(comesTo));
  });
  test('has help and an example', () => {
    for (const name of Object.keys(FUNCTIONS))
      if (isFunction(name)) {
        expect(functionEntry(name).help.length).toBeGreaterThan(10);
        // What needs rates has its example in the help; see exchange.test.ts.
        const { examples, help } = functionEntry(name);
        expect(name === 'exchange' ? help : examples.join()).toContain('(');
      }
    for (const { help, example } of Object.values(LIST_FUNCTIONS)) expect(help + example).toMatch(/\(/);
  });
});

describe('what is wrong is told at its place', () => {
  test.each([
    ['', /Write an expression/],
    ['   ', /Write an expression/],
    ['1 +', /Something is missing after “1 \+”/],
    ['1 + * 2', /can’t be read|missing/],
    ['(1 + 2', /missing/],
    ['foo', /^foo: Thing has nothing called “foo”/],
    ['numbr + 1', /^numbr: .*Did you mean “number”\?/],
    ['at.volum', /^volum: Place has nothing called “volum”. Did you mean “volume”\?/],
    ['count(part)', /Did you mean “parts”\?/],
    ['size + on', /^size \+ on: .*can’t be added to/],
    ['price + 1', /can’t be added to/],
    ['price * price', /can’t be multiplied by/],
    ['size + at.volume', /A number in m³ can’t be added to a number in kg/],
    ['size > at.volume', /can’t be compared/],
    ['size + amount(1, "m³")', /A number in m³ can’t be added to a number in kg/],
    ['amount(1, "EUR") + price', /can’t be added to/],
    ['at.volume * amount(1, "GBP/kg") + price', /can’t be added to/],
    ['amount(1)', /Write a number and its unit, as amount/],
    ['amount(size, "m")', /Write a number and its unit, as amount/],
    ['amount(1, "")', /Write a number and its unit, as amount/],
    ['title * 2', /Text can’t be multiplied by/],
    ['-title', /Only numbers and money have a sign/],
    ['if 1 then 2 else 3', /^1: After “if” stands a test; this is number/],
    ['if isOpen then 1 else "a"', /^"a": Expected number here as before, found text/],
    ['if isOpen then 1', /Something is missing after/],
    ['null', /Only null stands here|null/],
    ['if isOpen then null else null', /of no kind/],
    ['stage = "none"', /^"none":/],
    ['on > "2026-01-01"', /^"2026-01-01": Expected date here, found text. Write date\("2026-01-31"\)/],
    ['date("2026-02-30")', /^date\("2026-02-30"\):/],
    ['date("soon")', /Write date\("2026-01-31"\)/],
    ['duration("P1DT3H")', /whole days/],
    ['parts', /“parts” are several records/],
    ['parts + 1', /^parts: “parts” are several records/],
    ['parts[1]', /^1: Records beneath have no order/],
    ['count(number)', /^number: count\(…\) takes a list such as parts/],
    ['sum(parts)', /sum\(…\) needs a field of these records/],
    ['sum(parts.title)', /Expected number/],
    ['title[1]', /aren’t records that can be filtered/],
    ['rund(1)', /There is no function “rund”/],
    ['abs()', /abs\(number\); found 0 arguments/],
    ['abs(1, 2)', /found 2 arguments/],
    ['abs("x")', /^"x": abs\(…\) takes number or money here; this is text/],
    ['round half up(1, number)', /^number: .*written as one/],
    ['substring("x", 1.5)', /takes a whole number here/],
    ['number ** number', /A power is a whole number from 1 to 9/],
    ['now()', /can’t depend on the hour/],
    ['selected("lighter")', /There is no selection “lighter”/],
    ['{a: 1}', /FEEL that Oikon doesn’t have/],
    ['[1, 2]', /FEEL that Oikon doesn’t have/],
    ['function(x) x', /FEEL that Oikon doesn’t have/],
    ['number instance of number', /FEEL that Oikon doesn’t have/],
    ['every p in parts, q in parts satisfies true', /One list at a time/],
    ['on + 1.5', /whole number of days/],
    ['number > null', /Nothing is more or less than null/],
    ['count(parts[count(parts) > 1])', /can’t be gathered here/],
    ['1'.padEnd(70, '1'), /at most 60 digits/],
  ])('%s', (text, message) => {
    expect(wrong(text)).toMatch(message);
  });

  test('a text of 10,000 characters and a nesting of 500 are answered quickly, without a crash', () => {
    const long = Array.from({ length: 1_400 }, () => 'size').join(' + ');
    expect(wrong(long)).toMatch(/more than 400 parts|nested/);
    expect(wrong('x'.repeat(10_001))).toMatch(/at most 10,000/);
    expect(wrong(`${'('.repeat(500)}1${')'.repeat(500)}`)).toMatch(/nothing is wrong|nested/);
    expect(wrong(`${'not('.repeat(500)}isOpen${')'.repeat(500)}`)).toMatch(/nested/);
    expect(wrong('('.repeat(9_000))).toMatch(/nested|missing/);
    expect(wrong(`${'if isOpen then '.repeat(500)}1`)).toMatch(/nested|missing|else/);
  });
});
