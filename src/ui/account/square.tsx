import { create } from 'qrcode';
import style from './account.module.css';

/** A text as a square that phones read (QR code, ISO/IEC 18004), with the quiet edge that they want. */
export function Square({ text }: { text: string }) {
  const { size, data } = create(text, { errorCorrectionLevel: 'M' }).modules;
  const dark = Array.from({ length: size * size }, (_, at) => at)
    .filter((at) => data[at])
    .map((at) => `M${(at % size) + 4} ${Math.floor(at / size) + 4}h1v1h-1z`)
    .join('');
  return (
    <svg
      className={style.square}
      viewBox={`0 0 ${size + 8} ${size + 8}`}
      role="img"
      aria-label="A square that a phone reads; the text beneath it says the same"
      shapeRendering="crispEdges"
    >
      <rect width="100%" height="100%" fill="#fff" />
      <path d={dark} fill="#000" />
    </svg>
  );
}
