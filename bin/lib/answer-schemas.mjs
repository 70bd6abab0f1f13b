// Makes docs/oikon.answers.schema.json (JSON Schema, draft 7), the schemas of what each route answers, from `RouteAnswers` in
// src/app/api/answers.ts, as the compiler reads it. What JSON can't hold is refused.
//   node bin/lib/answer-schemas.mjs          writes it
//   node bin/lib/answer-schemas.mjs --check  fails where it isn't what the types say
import { readFileSync, writeFileSync } from 'node:fs';
import ts from 'typescript';

const FILE = 'docs/oikon.answers.schema.json';
const TYPES = 'src/app/api/answers.ts';

const read = ts.readConfigFile('tsconfig.json', ts.sys.readFile);
const { options } = ts.parseJsonConfigFileContent(read.config, ts.sys, '.');
const program = ts.createProgram([TYPES], options);
const checker = program.getTypeChecker();

const definitions = {};
/** The symbol that has a name, so that no two share one. */
const named = new Map();

const has = (type, flag) => (type.flags & flag) !== 0;

const describe = (symbol) => {
  const text = symbol && ts.displayPartsToString(symbol.getDocumentationComment(checker)).trim();
  return text ? { description: text.replace(/\s*\n\s*/g, ' ') } : {};
};

/** A type with a name of its own, that no type parameter makes several of. */
function nameOf(type) {
  const { aliasSymbol, aliasTypeArguments, symbol } = type;
  if (aliasSymbol && !aliasTypeArguments?.length) return aliasSymbol;
  const isNamed = symbol && symbol.flags & (ts.SymbolFlags.Interface | ts.SymbolFlags.Class);
  return isNamed && !checker.getTypeArguments(type)?.length && !checker.isArrayLikeType(type) ? symbol : null;
}

function schemaOf(type, at) {
  const symbol = nameOf(type);
  if (!symbol) return inlined(type, at);
  let name = symbol.name;
  for (let number = 2; named.has(name) && named.get(name) !== symbol; number += 1)
    name = `${symbol.name}${number}`;
  if (!named.has(name)) {
    named.set(name, symbol);
    definitions[name] = null;
    definitions[name] = { ...describe(symbol), ...inlined(type, name) };
  }
  return { $ref: `#/definitions/${name}` };
}

function inlined(type, at) {
  if (has(type, ts.TypeFlags.Any | ts.TypeFlags.Unknown | ts.TypeFlags.NonPrimitive)) return {};
  if (has(type, ts.TypeFlags.Null)) return { type: 'null' };
  if (type.isStringLiteral() || type.isNumberLiteral()) return { const: type.value };
  if (has(type, ts.TypeFlags.BooleanLiteral)) return { const: checker.typeToString(type) === 'true' };
  if (has(type, ts.TypeFlags.StringLike)) return { type: 'string' };
  if (has(type, ts.TypeFlags.NumberLike)) return { type: 'number' };
  if (has(type, ts.TypeFlags.BooleanLike) && !type.isUnion()) return { type: 'boolean' };
  if (type.isUnion()) return unionOf(type, at);
  if (checker.isTupleType(type)) {
    const items = checker.getTypeArguments(type).map((one, index) => schemaOf(one, `${at}.${index}`));
    return { type: 'array', items, minItems: items.length, maxItems: items.length };
  }
  if (checker.isArrayType(type))
    return { type: 'array', items: schemaOf(checker.getTypeArguments(type)[0], at) };
  if (!has(type, ts.TypeFlags.Object | ts.TypeFlags.Intersection) || type.getCallSignatures().length > 0)
    throw new Error(`${at}: JSON can’t hold ${checker.typeToString(type)}.`);
  return objectOf(type, at);
}

/** `undefined` says that a key may be left out, which its object tells. */
function unionOf(type, at) {
  // As it was written: a union with a name isn't taken apart where more is added to it.
  const written = type.origin?.isUnion() ? type.origin.types : type.types;
  const all = written.filter((one) => !has(one, ts.TypeFlags.Undefined));
  if (all.length === 1) return schemaOf(all[0], at);
  const isBoolean = all.filter((one) => has(one, ts.TypeFlags.BooleanLiteral)).length === 2;
  const words = all.filter((one) => one.isStringLiteral() || one.isNumberLiteral()).map((one) => one.value);
  const isNull = all.some((one) => has(one, ts.TypeFlags.Null));
  const rest = all.filter(
    (one) =>
      !one.isStringLiteral() &&
      !one.isNumberLiteral() &&
      !has(one, ts.TypeFlags.Null) &&
      !(isBoolean && has(one, ts.TypeFlags.BooleanLiteral)),
  );
  const plain = (kind) => ({ type: kind });
  const any = [
    ...(words.length > 0 ? [{ enum: [...words].sort() }] : []),
    ...(isBoolean ? [plain('boolean')] : []),
    ...rest.map((one) => schemaOf(one, at)),
    ...(isNull ? [plain('null')] : []),
  ];
  return any.length === 1 ? any[0] : { anyOf: any };
}

function objectOf(type, at) {
  const properties = {};
  const required = [];
  for (const property of checker.getPropertiesOfType(type)) {
    const { name } = property;
    const value = checker.getTypeOfSymbol(property);
    properties[name] = { ...schemaOf(value, `${at}.${name}`) };
    // Beside a reference nothing else counts in this draft.
    if (!properties[name].$ref) properties[name] = { ...describe(property), ...properties[name] };
    if (!(property.flags & ts.SymbolFlags.Optional)) required.push(name);
  }
  const index = checker.getIndexInfoOfType(type, ts.IndexKind.String);
  return {
    type: 'object',
    ...(Object.keys(properties).length > 0 ? { properties } : {}),
    ...(required.length > 0 ? { required } : {}),
    additionalProperties: index ? schemaOf(index.type, at) : false,
  };
}

const source = program.getSourceFile(TYPES);
const answers = checker
  .getExportsOfModule(checker.getSymbolAtLocation(source))
  .find(({ name }) => name === 'RouteAnswers');
const root = inlined(checker.getDeclaredTypeOfSymbol(answers), 'RouteAnswers');
const sorted = Object.fromEntries(Object.entries(definitions).sort(([a], [b]) => (a < b ? -1 : 1)));
const schema = { $schema: 'http://json-schema.org/draft-07/schema#', ...root, definitions: sorted };
const text = `${JSON.stringify(schema, null, 2)}\n`;

if (!process.argv.includes('--check')) writeFileSync(FILE, text);
else if (readFileSync(FILE, 'utf8') !== text) {
  console.error(`${FILE} isn’t what ${TYPES} says. Make it again: node bin/lib/answer-schemas.mjs`);
  process.exit(1);
}
