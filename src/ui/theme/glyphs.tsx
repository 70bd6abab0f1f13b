import type { ReactNode } from 'react';
import { KIND_OF_RULE } from './kinds-of-rule';

/** Oikon's own drawings: one stroke, a 20-unit square. The shape tells the meaning; colour comes from the text around it. */
function Drawing({ children, size = 20, label }: { children: ReactNode; size?: number; label?: string }) {
  const naming = label ? { role: 'img', 'aria-label': label } : { 'aria-hidden': true };
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 20 20"
      fill="none"
      stroke="currentColor"
      strokeWidth={1.5}
      strokeLinecap="round"
      strokeLinejoin="round"
      {...naming}
    >
      {children}
    </svg>
  );
}

interface GlyphProps {
  readonly size?: number;
  readonly label?: string;
}

/** Three below that meet in one above. */
export const RollUpGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <rect x="7" y="2" width="6" height="6" rx="1" fill="currentColor" />
    <path d="M4 16V12.5a1.5 1.5 0 0 1 1.5-1.5h9a1.5 1.5 0 0 1 1.5 1.5V16M10 8.5V16" />
    <circle cx="4" cy="17" r="1.2" />
    <circle cx="10" cy="17" r="1.2" />
    <circle cx="16" cy="17" r="1.2" />
  </Drawing>
);

/** Two that go into one, side by side. */
export const FormulaGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <circle cx="4" cy="5" r="1.8" />
    <circle cx="4" cy="15" r="1.8" />
    <path d="M6 5.8l5 3.2M6 14.2l5-3.2" />
    <rect x="11.5" y="7" width="6" height="6" rx="1" fill="currentColor" />
  </Drawing>
);

/** One above that goes to three below. */
export const CascadeGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <circle cx="10" cy="3.5" r="1.8" />
    <path d="M10 5.5v4M4 12.5V11a1.5 1.5 0 0 1 1.5-1.5h9A1.5 1.5 0 0 1 16 11v1.5M10 9.5v3" />
    <rect x="1.8" y="13" width="4.4" height="4.4" rx="1" fill="currentColor" />
    <rect x="7.8" y="13" width="4.4" height="4.4" rx="1" fill="currentColor" />
    <rect x="13.8" y="13" width="4.4" height="4.4" rx="1" fill="currentColor" />
  </Drawing>
);

/** One beside which another is made: drawn dashed until it is there. */
export const CreateGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <circle cx="4.5" cy="10" r="2.2" />
    <path d="M6.8 10h3.4" />
    <rect x="10.8" y="5.8" width="7.4" height="8.4" rx="1" strokeDasharray="2.2 1.8" />
    <path d="M14.5 8.4v3.2M12.9 10h3.2" />
  </Drawing>
);

/** Two rings that are brought together. */
export const LinkGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <circle cx="6.2" cy="13.8" r="3.4" />
    <circle cx="13.8" cy="6.2" r="3.4" fill="currentColor" />
    <path d="M8.8 11.2l2.4-2.4" />
  </Drawing>
);

/** A sheet of the day with a mark to be set. */
export const TodayGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <path d="M4 3.5h12v13H4zM4 7h12" />
    <path d="M7.2 11.8l1.9 1.9 3.7-3.9" />
  </Drawing>
);

/** Somebody, and what is open to them. */
export const SettingsGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <circle cx="7" cy="6" r="3" />
    <path d="M2 17v-1.5A4.5 4.5 0 0 1 6.5 11H8" />
    <circle cx="13" cy="14" r="2.6" />
    <path d="M15.6 14H19M17.6 14v2" />
  </Drawing>
);

/** An open book with a mark at its middle. */
export const HelpGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <path d="M10 5.5c-2-1.4-4-1.6-6.5-1.3v11c2.5-.3 4.5-.1 6.5 1.3 2-1.4 4-1.6 6.5-1.3v-11c-2.5-.3-4.5-.1-6.5 1.3z" />
    <path d="M10 8.2v5" />
  </Drawing>
);

/** What somebody said, with two lines of it. */
export const RequestsGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <path d="M3.5 3.5h13v9.5h-7l-3.5 3.5v-3.5h-2.5z" />
    <path d="M6.5 7h7M6.5 9.8h4.5" />
  </Drawing>
);

const GLYPHS = {
  rollUp: RollUpGlyph,
  formula: FormulaGlyph,
  cascade: CascadeGlyph,
  create: CreateGlyph,
  link: LinkGlyph,
} as const;

/** The drawing of a kind of rule, with its name. */
export function KindGlyph({ kind, size }: { readonly kind: keyof typeof GLYPHS; readonly size?: number }) {
  const Glyph = GLYPHS[kind];
  return <Glyph label={KIND_OF_RULE[kind]} {...(size ? { size } : {})} />;
}

/** The house: a room within a room, with the hearth. */
export const OikonMark = ({ size = 30 }: GlyphProps) => (
  <svg
    width={size}
    height={size}
    viewBox="0 0 32 32"
    fill="none"
    stroke="currentColor"
    strokeWidth={2}
    strokeLinejoin="round"
    aria-hidden
  >
    <path d="M4 28V13L16 4l12 9v15z" />
    <path d="M10 28V17.5l6-4.5 6 4.5V28" />
    <circle cx="16" cy="23" r="2.2" fill="currentColor" stroke="none" />
  </svg>
);

/** A line of writing with a part of it marked. */
export const RulesGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <path d="M3 5h6M3 10h14M3 15h9" />
    <path d="M12 5h5" strokeWidth={3} />
  </Drawing>
);

/** A table top on two legs with a piece lying on it. */
export const BenchGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <path d="M2 10.5h16M4.5 10.5V17M15.5 10.5V17" />
    <rect x="7" y="4.5" width="6" height="6" rx="0.8" />
  </Drawing>
);

/** Cards in a drawer. */
export const RecordsGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <path d="M5 6.5V3.5h10v3M3.5 9.5v-3h13v3" />
    <rect x="2" y="9.5" width="16" height="7.5" rx="1" />
    <path d="M8 13h4" />
  </Drawing>
);

/** A full spot: it counts. */
export const CountsGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <circle cx="10" cy="10" r="5" fill="currentColor" />
  </Drawing>
);

/** An open ring with a bar: it is left out. */
export const LeftOutGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <circle cx="10" cy="10" r="5" />
    <path d="M6.5 13.5l7-7" />
  </Drawing>
);

/** A dotted ring: nothing stands there, or nothing is known of it. */
export const BlankGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <circle cx="10" cy="10" r="5" strokeDasharray="1.5 3" />
  </Drawing>
);

/** A bound book, lying open at a line. */
export const LedgerGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <path d="M3 4.5h5.2c1 0 1.8.7 1.8 1.6 0-.9.8-1.6 1.8-1.6H17v11h-5.2c-1 0-1.8.6-1.8 1.2 0-.6-.8-1.2-1.8-1.2H3z" />
    <path d="M10 6.1v10.4M5.3 8h2.4M5.3 11h2.4M12.3 8h2.4" />
  </Drawing>
);

/** Boxes that hang under one another. */
export const ModelGlyph = (props: GlyphProps) => (
  <Drawing {...props}>
    <rect x="6.5" y="2.5" width="7" height="4.5" rx="0.8" />
    <rect x="2" y="13" width="6" height="4.5" rx="0.8" />
    <rect x="12" y="13" width="6" height="4.5" rx="0.8" />
    <path d="M10 7v3M5 13v-3h10v3" />
  </Drawing>
);
