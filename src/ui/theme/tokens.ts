/** Oikon's palette: warm paper behind white sheets, ink, and three colours that each mean one thing. */
export const COLOURS = {
  paper: '#F6F3EC',
  sheet: '#FFFFFF',
  ink: '#22302B',
  /** What can be pressed. */
  pine: '#1F5C4D',
  pineTint: '#E7EFEB',
  /** Only what a rule changed. */
  terracotta: '#B9502A',
  terracottaTint: '#FBEEE7',
  /** What is left out, and values of before. */
  slate: '#5B6770',
  slateTint: '#EEF0F1',
  hairline: '#DDD8CB',
  /** What a person has to put right. */
  alarm: '#9B1C31',
} as const;

export const FONTS = {
  text: "'Hanken Grotesk Variable', system-ui, sans-serif",
  mono: "'JetBrains Mono Variable', ui-monospace, monospace",
} as const;
