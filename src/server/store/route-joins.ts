import type { TypedField } from '@/core/expression';
import { follow } from '@/core/model';
import { columnOf, type Schema, tableOf, type ValuePlaces } from './sql';

export interface RouteInput {
  readonly schema: Schema;
  /** The type of the records at hand, and their alias in the statement. */
  readonly from: string;
  readonly alias: string;
  readonly binds: ValuePlaces;
  /** Fields that rules keep: they may be in error. */
  readonly isKept: (type: string, field: string) => boolean;
  /** Names of earlier queries of the same statement that give a field another value: `exhibition.artefactCount` → `r1`. */
  readonly instead?: ReadonlyMap<string, string>;
}

/** The tables that are read besides the records at hand: records up the routes, and values given instead. */
export class RouteJoins {
  readonly #joins = new Map<string, string>();

  constructor(private readonly input: RouteInput) {}

  sql(): string {
    return [...this.#joins.values()].join('\n');
  }

  /** The SQL of a field's value. */
  read(field: TypedField): string {
    const alias = this.alias(field.route);
    const instead = this.input.instead?.get(`${field.owner}.${field.field}`);
    return instead ? `${this.insteadOf(alias, instead)}.after0` : `${alias}.${columnOf(field.field)}`;
  }

  /** The SQL of whether a field is in error, or null when no rule keeps it. */
  error(field: TypedField): string | null {
    if (!this.input.isKept(field.owner, field.field)) return null;
    const alias = this.alias(field.route);
    const instead = this.input.instead?.get(`${field.owner}.${field.field}`);
    if (instead) return `(${this.insteadOf(alias, instead)}.after_error0 IS NOT NULL)`;
    return `(${alias}.problems ->> ${this.input.binds.add(field.field, 'text')} IS NOT NULL)`;
  }

  private alias(route: readonly string[]): string {
    if (route.length === 0) return this.input.alias;
    const near = this.alias(route.slice(0, -1));
    const key = `route ${route.join('.')}`;
    const name = `u${this.indexOf(key)}`;
    const { schema, from } = this.input;
    if (!this.#joins.has(key)) {
      const type = follow(schema.model, from, route)!;
      const join = `LEFT JOIN ${tableOf(schema.schema, type)} ${name} ON ${name}.id = ${near}.${columnOf(route.at(-1)!)} AND ${name}.deleted_run IS NULL`;
      this.#joins.set(key, join);
    }
    return name;
  }

  private insteadOf(alias: string, instead: string): string {
    const key = `instead ${alias} ${instead}`;
    const name = `i${this.indexOf(key)}`;
    if (!this.#joins.has(key))
      this.#joins.set(key, `LEFT JOIN ${instead} ${name} ON ${name}.id = ${alias}.id`);
    return name;
  }

  private indexOf(key: string): number {
    const index = [...this.#joins.keys()].indexOf(key);
    return index < 0 ? this.#joins.size : index;
  }
}
