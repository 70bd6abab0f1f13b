import { readFeel, typeFieldRead } from '@/core/expression';
import type { Model } from '@/core/model';
import { bad, good, IN_WORDS, type Kind, KIND_NAMES, type Result } from '@/core/values';
import type { TextPart } from './cascade';

/** Whether a kind has words of its own, and so can stand in a text. */
export const standsInText = (kind: Kind): boolean => IN_WORDS.includes(kind);

/** Text with values in it, as its pieces: `With {title} until {closes}`. Two braces stand for one. */
export function textParts(model: Model, type: string, text: string): Result<readonly TextPart[]> {
  const parts: TextPart[] = [];
  for (const [piece, path] of text.matchAll(/\{\{|\}\}|\{([^{}]*)\}|[^{}]+|[{}]/g)) {
    if (piece === '{{' || piece === '}}') parts.push(piece.charAt(0));
    else if (path === undefined && (piece === '{' || piece === '}'))
      return bad(
        'cascade.text',
        `“${piece}” stands alone. Write {title} for a field, or ${piece}${piece} for the sign.`,
      );
    else if (path === undefined) parts.push(piece);
    else {
      const read = readFeel(model, type, path.trim());
      if (!read.ok) return bad('cascade.text', `{${path}}: ${read.problem.message}`);
      const { expression } = read.value;
      if (expression.kind !== 'field')
        return bad('cascade.text', `{${path}} isn’t a field. Name one, such as {title} or {venue.name}.`);
      const field = typeFieldRead(model, type, expression);
      if (!field.ok) return bad('cascade.text', `{${path}}: ${field.problem.message}`);
      if (!standsInText(field.value.type.kind))
        return bad(
          'cascade.text',
          `{${path}} is ${KIND_NAMES[field.value.type.kind]}. Name a field of that record, such as {${path}.name}.`,
        );
      parts.push(field.value);
    }
  }
  return good(parts);
}
