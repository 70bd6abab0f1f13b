import { readFeel, typeFieldRead } from '@/core/expression';
import type { Model } from '@/core/model';
import { bad, good, IN_WORDS, type Kind, KIND_NAMES, type Result } from '@/core/values';
import type { TextPart } from './cascade';

/** Whether a kind has words of its own, and so can stand in a text. */
export const standsInText = (kind: Kind): boolean => IN_WORDS.includes(kind);

/**
 * Text with values in it, as its pieces: `With {title} until {closes}`. Two braces stand for one. Across a bridge (`via`) its fields stand there too, by
 * the key of its type: `Let until {lettingEnds} ({tenancy.role})`, unless the record itself has a link called so.
 */
export function textParts(
  model: Model,
  type: string,
  text: string,
  via: string | null = null,
): Result<readonly TextPart[]> {
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
      const onVia = via !== null && path.trim().startsWith(`${via}.`) && !model.field(type, via);
      const of = onVia ? via : type;
      const read = readFeel(model, of, onVia ? path.trim().slice(via.length + 1) : path.trim());
      if (!read.ok) return bad('cascade.text', `{${path}}: ${read.problem.message}`);
      const { expression } = read.value;
      if (expression.kind !== 'field')
        return bad('cascade.text', `{${path}} isn’t a field. Name one, such as {title} or {venue.name}.`);
      const field = typeFieldRead(model, of, expression);
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
