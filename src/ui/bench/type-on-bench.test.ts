import type { ModelView } from '@/core/api';
import { GALLERIES } from '@/core/testing/galleries';
import { typeOnBench } from './type-on-bench';

const keeper = (type: string, field: string, isInStep = false) =>
  ({ type, field, isInStep, isReacting: false }) as ModelView['keepers'][number];
const view = (...keepers: ModelView['keepers']) => ({ types: GALLERIES.types, keepers });

test('the bench shows the type that is asked for, where it has children', () => {
  expect(typeOnBench(view(), 'loan')).toBe('loan');
  expect(typeOnBench(view(), 'artefact')).toBe('institution');
});

test('else the one on which most fields are kept, or the first that has children', () => {
  const keepers = [keeper('exhibition', 'insuredTotal'), keeper('artefact', 'weight')];
  expect(typeOnBench(view(...keepers), null)).toBe('exhibition');
  const inStep = [keeper('loan', 'stage', true), keeper('loan', 'weight', true)];
  expect(typeOnBench(view(...keepers, ...inStep), null)).toBe('exhibition');
  expect(typeOnBench(view(), null)).toBe('institution');
  expect(typeOnBench({ types: [], keepers: [] }, null)).toBeNull();
});
