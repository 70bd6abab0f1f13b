/** Tells that the page listens now. */
export const LISTENS = 'oikon:listens';

/**
 * Keeps what a person does to a page that is seen before its script listens, and does it once it does: what was typed comes first, then presses and keys in
 * their order. A link is followed at once, as it needs no script. It runs within the page itself, before all else, and so uses nothing of this file.
 */
export function keepEarlyPresses(listens: string): void {
  const kinds = ['pointerdown', 'mousedown', 'pointerup', 'mouseup', 'click', 'keydown'];
  const early: Event[] = [];
  const typed = new Set<HTMLInputElement | HTMLTextAreaElement>();
  const isField = (target: EventTarget | null): target is HTMLInputElement | HTMLTextAreaElement =>
    target instanceof HTMLTextAreaElement ||
    (target instanceof HTMLInputElement && !['checkbox', 'radio', 'file'].includes(target.type));
  const keep = (event: Event): void => {
    if (event.type === 'keydown' && isField(event.target)) return;
    // A link, and what opens by itself, do what they do.
    if (event.type === 'click' && (event.target as Element).closest('a[href], summary')) return;
    // What would be done without the script, such as to mark a box, is done with it.
    if (event.type === 'click') event.preventDefault();
    early.push(event);
  };
  const keepTyped = ({ target }: Event): void => {
    if (isField(target)) typed.add(target);
  };
  /** As if it were typed now: the page's script reads a field by its own setter, and what is in it by the browser's. */
  const type = (field: HTMLInputElement | HTMLTextAreaElement): void => {
    const { value } = field;
    field.value = field.defaultValue;
    const kind = field instanceof HTMLInputElement ? HTMLInputElement : HTMLTextAreaElement;
    Object.getOwnPropertyDescriptor(kind.prototype, 'value')?.set?.call(field, value);
    field.dispatchEvent(new Event('input', { bubbles: true }));
  };
  const heard = (): void => {
    for (const kind of kinds) window.removeEventListener(kind, keep, true);
    window.removeEventListener('input', keepTyped, true);
    for (const field of typed) if (field.isConnected) type(field);
    for (const event of early) {
      const Kind = event.constructor as new (type: string, init: Event) => Event;
      if ((event.target as Node).isConnected) event.target?.dispatchEvent(new Kind(event.type, event));
    }
  };
  for (const kind of kinds) window.addEventListener(kind, keep, true);
  window.addEventListener('input', keepTyped, true);
  window.addEventListener(listens, heard, { once: true });
}

/** The script as it stands in a page. */
export const EARLY_PRESSES = `(${keepEarlyPresses.toString()})(${JSON.stringify(LISTENS)})`;
