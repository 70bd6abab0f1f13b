/** Whether rules that react act on what is filled, as a choice. */
export const othersActWords = (reacting: readonly { readonly name: string }[]): string =>
  `Act on what is filled: ${reacting.map(({ name }) => `“${name}”`).join(', ')}. Otherwise ${reacting.length === 1 ? 'it acts' : 'they act'} only on what comes from now on.`;
