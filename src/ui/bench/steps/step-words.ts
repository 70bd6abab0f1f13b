import { fieldIn, type Model, typeIn } from '@/core/model';
import { displayValue } from '@/core/values';
import { wordsOfValue } from '@/core/verify';
import type { Step } from './steps';

/** A staged step in words: `Stage of Robes becomes Agreed`. */
export function wordsOfStep(model: Model, step: Step, nameOf: (id: string) => string | undefined): string {
  if (step.kind === 'save') return 'Next save';
  if (step.kind === 'day') return `On ${displayValue({ kind: 'date' }, step.day)}`;
  if (step.kind === 'actor') return `${nameOf(step.person) ?? 'Somebody'} acts`;
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
      return `${field.name} of ${name} becomes ${wordsOfValue(field.type, step.value, nameOf)}`;
    }
  }
}
