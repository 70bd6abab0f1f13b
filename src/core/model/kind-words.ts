import { Decimal, displaySerial, KIND_NAMES, type ValueType } from '@/core/values';
import { type Model, typeIn } from './model';

/** What a field holds, in words: `number, 2 places, kg`, `link to Loan`. */
export function kindWords(model: Model, type: ValueType): string {
  switch (type.kind) {
    case 'number':
      return [
        KIND_NAMES.number,
        type.scale > 0 ? `${type.scale} ${type.scale === 1 ? 'place' : 'places'}` : '',
        type.unit ?? '',
      ]
        .filter(Boolean)
        .join(', ');
    case 'money':
      return `${KIND_NAMES.money}, ${type.currency}`;
    case 'rating':
      return `${KIND_NAMES.rating} ${type.lowest} to ${type.highest}`;
    case 'choice':
    case 'choices':
      return `${KIND_NAMES[type.kind]} of ${type.options.length}`;
    case 'serial':
      return `${KIND_NAMES.serial}, ${displaySerial(type, new Decimal(1))} on`;
    case 'link':
      return `link to ${typeIn(model, type.target).name}`;
    default:
      return KIND_NAMES[type.kind];
  }
}
