import { GALLERIES } from '@/core/testing/galleries';
import { checkModel, type Field, follow, type ModelDefinition, readModel } from '.';

const withField = (field: Partial<Field> & Pick<Field, 'type'>): ModelDefinition => ({
  types: [
    {
      ...{ key: 'loan', name: 'Loan', plural: 'Loans', title: 'title' },
      fields: [
        { key: 'title', name: 'Title', type: { kind: 'text' }, required: true },
        { key: 'extra', name: 'Extra', ...field },
      ],
    },
  ],
});

const problemsOf = (model: ModelDefinition) =>
  checkModel(model).map(({ place, message }) => `${place}: ${message}`);

test('the galleries have no problems', () => {
  expect(checkModel(GALLERIES)).toEqual([]);
});

test.each<[string, Partial<Field> & Pick<Field, 'type'>, RegExp]>([
  [
    'a key that is no identifier',
    { key: 'Insured value', type: { kind: 'text' } },
    /start with a small letter/,
  ],
  ['a key of Oikon’s own', { key: 'version', type: { kind: 'text' } }, /Oikon’s own/],
  ['a key twice', { key: 'title', type: { kind: 'text' } }, /two fields with the key/],
  ['a link into nowhere', { type: { kind: 'link', target: 'crate' }, otherEnd: 'Loans' }, /doesn’t exist/],
  ['a link without a name for its other end', { type: { kind: 'link', target: 'loan' } }, /other end/],
  ['a currency that isn’t one', { type: { kind: 'money', currency: 'XYZ' } }, /ISO 4217/],
  ['too many places', { type: { kind: 'number', scale: 21 } }, /0 to 20 decimal places/],
  [
    'a rating upside down',
    { type: { kind: 'rating', lowest: 6, highest: 1 } },
    /lowest to a greater highest/,
  ],
  ['a choice of nothing', { type: { kind: 'choice', options: [] } }, /at least one option/],
  [
    'an option twice',
    {
      type: {
        kind: 'choice',
        options: [
          { key: 'a', name: 'A' },
          { key: 'a', name: 'B' },
        ],
      },
    },
    /there twice/,
  ],
])('%s is found, with its place', (_, field, message) => {
  const problems = problemsOf(withField(field));
  expect(problems).toHaveLength(1);
  expect(problems[0]).toMatch(message);
  expect(problems[0]).toMatch(/^loan\./);
});

test('a type must be named by a required text, and may have any name', () => {
  const [type] = withField({ type: { kind: 'yesNo' } }).types;
  expect(problemsOf({ types: [{ ...type!, title: 'extra' }] })[0]).toMatch(/required text field/);
  // Names of Oikon's own tables begin with an underscore, so that a type may be called anything.
  expect(problemsOf({ types: [{ ...type!, key: 'ledger' }] }).join(' ')).not.toMatch(/Oikon’s own/);
});

test('routes go up over links, and end where a step isn’t one', () => {
  const model = readModel(GALLERIES);
  expect(follow(model, 'artefact', ['loan', 'exhibition', 'venue', 'partOf'])).toBe('institution');
  expect(follow(model, 'loan', [])).toBe('loan');
  expect(follow(model, 'loan', ['stage'])).toBeUndefined();
  expect(follow(model, 'loan', ['exhibition', 'lender'])).toBeUndefined();
  expect(model.linksTo('institution').map(({ type, link }) => `${type}.${link}`)).toEqual([
    'institution.partOf',
    'exhibition.venue',
    'loan.lender',
  ]);
});
