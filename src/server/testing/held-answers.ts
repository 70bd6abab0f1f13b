import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Ajv, type ValidateFunction } from 'ajv';

/** Holds what the API answers to docs/oikon.answers.schema.json. */

const ID = 'answers';
const schema = JSON.parse(
  readFileSync(join(__dirname, '../../../docs/oikon.answers.schema.json'), 'utf8'),
) as {
  readonly properties: Readonly<Record<string, { readonly properties: Readonly<Record<string, unknown>> }>>;
};
const ajv = new Ajv({ strict: false });
ajv.addSchema(schema, ID);

/** Those that name more of an address first: `…/{type}/export` before `…/{type}/{id}`. */
const paths = Object.keys(schema.properties)
  .map((path) => ({
    path,
    pattern: new RegExp(`^${path.replace(/\{\w+\}/g, '[^/]+')}$`),
    open: path.split('{').length,
  }))
  .sort((a, b) => a.open - b.open);

/** The route that an address is of, itself included; parts in braces take whatever stands there. */
const pathOf = (address: string): string | undefined =>
  paths.find(({ pattern }) => pattern.test(address))?.path;

const escaped = (part: string): string =>
  encodeURIComponent(part.replaceAll('~', '~0').replaceAll('/', '~1'));

function schemaFor(path: string, method: string): ValidateFunction | undefined {
  return ajv.getSchema(`${ID}#/properties/${escaped(path)}/properties/${method}`);
}

const UUID = /[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}/;

/** The id in a text that people read, in words, or null: it says nothing to them. */
export const idIn = (text: string, where: string): string | null => {
  const found = UUID.exec(text);
  return found
    ? `${where} shows an id to people: “${text.slice(Math.max(0, found.index - 60), found.index + 60)}”.`
    : null;
};

/** What people read of an answer. */
const READ: ReadonlySet<string> = new Set([
  ...[
    'text',
    'words',
    'title',
    'name',
    'typeName',
    'fieldName',
    'plural',
    'message',
    'why',
    'what',
    'says',
    'sentence',
  ],
  ...['expects', 'given', 'saves', 'gives', 'also', 'subject', 'cases', 'note', 'label'],
]);

function idShown(part: unknown, where: string, isRead = false): string | null {
  if (typeof part === 'string') return isRead ? idIn(part, where) : null;
  if (typeof part !== 'object' || part === null) return null;
  for (const [key, value] of Object.entries(part)) {
    const found = idShown(value, where, Array.isArray(part) ? isRead : READ.has(key));
    if (found) return found;
  }
  return null;
}

/**
 * What is wrong with an answer to `method` of an address (or of a route's path), in words, or null. Answers without a body and files have
 * no schema beyond their kind.
 */
export function wrongIn(method: string, address: string, body: unknown): string | null {
  const path = pathOf(address);
  const validate = path && schemaFor(path, method);
  if (!path || !validate) return `No schema says what ${method} ${address} answers.`;
  if (validate(body)) return idShown(body, `${method} ${path}`);
  return `${method} ${path}: ${ajv.errorsText(validate.errors, { dataVar: 'the answer' })}; ${JSON.stringify(validate.errors?.[0]?.params)}`;
}
