import { fieldsRead, gathersIn, RECORD_ITSELF, type Typed } from '@/core/expression';
import { type Model, routeKey, type Step, stepsUp, typeAlong, typeUp } from '@/core/model';
import type { Read } from './base';

/** Collects what a rule reads, each once: fields, and the links of all ways to them. */
export class ReadPaths {
  readonly #reads = new Map<string, Read>();

  constructor(
    private readonly model: Model,
    /** The type of the record whose field is kept, from which paths start. */
    private readonly type: string,
  ) {}

  all(): Read[] {
    return [...this.#reads.values()];
  }

  /** The fields that an expression reads on the records at the end of a path, and up their links. */
  addFields(path: readonly Step[], node: Typed): void {
    for (const { from, route, owner, field } of fieldsRead(node)) {
      this.addUp(path, from, route);
      // A record's id never changes.
      if (field === RECORD_ITSELF) continue;
      this.add({ type: owner, field, path: [...path, ...stepsUp(route)] });
    }
  }

  /** What an expression of the record itself gathers beneath it, or beneath what lies above it: the way to it, and what is read there. */
  addGathered(node: Typed): void {
    for (const { up, down, value, condition, leading } of gathersIn(node)) {
      const route: readonly Step[] = [...stepsUp(up), ...down];
      this.addUp([], this.type, up);
      this.addDown(route);
      const { order = null, id = null, same = [] } = leading ?? {};
      const inner = [value, condition, order && order.field, id, ...same.map(({ theirs }) => theirs)];
      for (const part of inner) if (part) this.addFields(route, part);
      for (const { own } of same) this.addFields([], own);
    }
  }

  /** A field of the record itself. */
  addOwn(field: string): void {
    this.add({ type: this.type, field, path: [] });
  }

  /** The links of a way up from records of a type at the end of a path. */
  addUp(path: readonly Step[], from: string, route: readonly string[]): void {
    route.forEach((link, at) => {
      const up = route.slice(0, at);
      this.add({ type: typeUp(this.model, from, up), field: link, path: [...path, ...stepsUp(up)] });
    });
  }

  /** All that lies above the record at the end of a way up, over a link of its type to itself. */
  addAllUp(route: readonly string[], { type, link }: { readonly type: string; readonly link: string }): void {
    this.add({ type, field: link, path: stepsUp(route), isAllUp: true });
  }

  /** The links of the steps down in a path. */
  addDown(path: readonly Step[]): void {
    path.forEach((step, at) => {
      if (step.direction === 'up') return;
      const to = path.slice(0, at + 1);
      this.add({ type: typeAlong(this.model, this.type, to), field: step.link, path: to });
    });
  }

  private add(read: Read): void {
    const key = `${routeKey(read.path)} ${read.field} ${read.isAllUp === true}`;
    if (!this.#reads.has(key)) this.#reads.set(key, read);
  }
}
