import type { InstallationEventView } from '@/core/api';
import { certain, formWords } from '@/core/values';

/** What was done, in words: “renamed “Trial” to “Wrenfield 2027””. */
export function eventWords({ kind, name, data }: InstallationEventView): string {
  switch (kind) {
    case 'made':
      return `made “${name}”`;
    case 'copied':
      return `made “${name}” as a copy`;
    case 'renamed':
      return `renamed “${data.before ?? ''}” to “${name}”`;
    case 'form': {
      const form = certain(data.form);
      return `had numbers and dates of “${name}” written as ${formWords(form)}`;
    }
    case 'removed':
      return `removed “${name}” with all that was in it`;
    case 'imported': {
      const people = (data.people ?? []).map((person) => person.name);
      return people.length === 0
        ? `made “${name}” of a bundle`
        : `made “${name}” of a bundle, which brought in ${people.join(', ')}`;
    }
  }
}
