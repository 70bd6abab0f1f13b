import { fieldIn, type Model, typeIn } from '@/core/model';
import { displayValue, parseValue, type WireValue } from '@/core/values';
import type { Step } from './steps';

/** A staged step in words: `Stage of Robes becomes Agreed`. */
export function wordsOfStep(model: Model, step: Step, nameOf: (id: string) => string | undefined): string {
  if (step.kind === 'save') return 'Next save';
  const { type, id } = step;
  const name = nameOf(id) ?? typeIn(model, type).name;
  switch (step.kind) {
    case 'create':
      return `${String(step.values[typeIn(model, type).title] ?? typeIn(model, type).name)} is made`;
    case 'delete':
      return `${name} is deleted`;
    case 'restore':
      return `${name} is restored`;
    case 'edit': {
      const field = fieldIn(model, type, step.field);
      return `${field.name} of ${name} becomes ${shown(field.type, step.value, nameOf)}`;
    }
  }
}

function shown(
  type: Parameters<typeof displayValue>[0],
  value: WireValue,
  nameOf: (id: string) => string | undefined,
): string {
  const read = parseValue(type, value);
  return read.ok ? displayValue(type, read.value, nameOf) : String(value);
}
