import type { Row } from '@/core/engine';

export interface DemoPerson {
  readonly id: string;
  readonly name: string;
  readonly email: string;
  readonly role: string;
}
export interface DemoData {
  readonly people: readonly DemoPerson[];
  readonly rows: readonly Row[];
}
