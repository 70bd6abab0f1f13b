import { Desk } from '@/demo/testing/desk';

describe('the top lender of a loan', () => {
  const desk = () =>
    new Desk()
      .add('institution', 'trust', { name: 'Trust' })
      .add('institution', 'museum', { name: 'Museum', partOf: 'trust' })
      .add('institution', 'annex', { name: 'Annex', partOf: 'museum' })
      .add('institution', 'other', { name: 'Other' })
      .add('loan', 'robes', { title: 'Robes', lender: 'annex' });

  test('is the topmost institution, and follows when what is above moves', () => {
    const at = desk();
    expect(at.at('loan', 'robes', 'topLender')).toBe('trust');
    expect(at.change('institution', 'museum', { partOf: 'other' }).at('loan', 'robes', 'topLender')).toBe(
      'other',
    );
    expect(at.change('institution', 'annex', { partOf: null }).at('loan', 'robes', 'topLender')).toBe(
      'annex',
    );
    expect(at.change('loan', 'robes', { lender: 'museum' }).at('loan', 'robes', 'topLender')).toBe('other');
    expect(at.change('loan', 'robes', { lender: null }).at('loan', 'robes', 'topLender')).toBe('empty');
  });

  test('isn’t entered by anybody', () => {
    expect(() => desk().change('loan', 'robes', { topLender: 'other' })).toThrow(
      /kept in step here by the rule/,
    );
  });
});

describe('the crate of an artefact, by its label', () => {
  const desk = () =>
    new Desk()
      .add('crate', 'one', { label: 'WT-01' })
      .add('crate', 'two', { label: 'WT-02' })
      .add('artefact', 'vase', { title: 'Vase' });

  test('is found whatever the case, where it is empty, and again when it is cleared', () => {
    const at = desk().change('artefact', 'vase', { crateLabel: 'wt-02' });
    expect(at.at('artefact', 'vase', 'crate')).toBe('two');
    expect(at.change('artefact', 'vase', { crate: 'one' }).at('artefact', 'vase', 'crate')).toBe('one');
    expect(at.change('artefact', 'vase', { crate: null }).at('artefact', 'vase', 'crate')).toBe('two');
  });

  test('none stays none; of several a person is asked', () => {
    const at = desk().change('artefact', 'vase', { crateLabel: 'WT-09' });
    expect([at.at('artefact', 'vase', 'crate'), at.proposals]).toEqual(['empty', []]);
    at.add('crate', 'again', { label: 'wt-01' }).change('artefact', 'vase', { crateLabel: 'WT-01' });
    expect(at.at('artefact', 'vase', 'crate')).toBe('empty');
    expect(at.proposals).toEqual([
      expect.objectContaining({
        missing: [{ field: 'crate', reason: 'several', candidates: ['again', 'one'] }],
      }),
    ]);
  });
});
