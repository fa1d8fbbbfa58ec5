export const COMMON = [28, 32, 54, 75, 100];
const HIGH = 236;
const WIDE = 250;
/** Beside the figure there is its ruler, and the names of the sizes. */
const ROOM = WIDE - 100;
const LINE = 12;
/** The silhouette's picture in pixels, and how much of it the figure fills. */
const [PICTURE_W, PICTURE_H, MARGIN] = [220, 260, 1.04];

interface Props {
  /** The picture of its outline as it was guessed to stand; null where it stands otherwise. */
  silhouette: string | null;
  size: number[];
}

/** The figure's outline beside the common sizes, to one scale. */
export function Ruler({ silhouette, size }: Props) {
  const [wide, , tall] = size;
  const top = Math.max(tall, 32) * 1.12;
  const k = Math.min(HIGH / top, ROOM / wide);
  const pixel = MARGIN * Math.max(wide / PICTURE_W, tall / PICTURE_H);
  const [w, h] = [PICTURE_W * pixel * k, PICTURE_H * pixel * k];
  const at = 16 + (w + wide * k) / 2;
  const apart = (c: number, i: number) =>
    i + 1 >= COMMON.length || (COMMON[i + 1] - c) * k >= LINE || COMMON[i + 1] > top;
  return (
    <svg
      width={WIDE}
      height={HIGH + 22}
      role="img"
      aria-label={`Outline ${tall.toFixed(0)} mm tall beside the sizes 28, 32, 54 and 75 mm`}
      className="self-start"
    >
      {COMMON.filter((c, i) => c <= top && apart(c, i)).map((c) => (
        <g key={c} transform={`translate(0 ${HIGH - c * k})`}>
          <line x2={WIDE} stroke="var(--thread)" strokeDasharray="2 4" />
          <text x={WIDE} y="-3" textAnchor="end" fontSize="11" fill="var(--faded)">
            {c} mm
          </text>
        </g>
      ))}
      <line x2={WIDE} y1={HIGH} y2={HIGH} stroke="var(--clay)" />
      {silhouette ? (
        <image
          href={`/api/blobs/${silhouette}`}
          x={2}
          width={w}
          height={h}
          y={HIGH - (tall * k) / 2 - h / 2}
          preserveAspectRatio="none"
        />
      ) : (
        <rect
          x={2 + (w - wide * k) / 2}
          width={wide * k}
          y={HIGH - tall * k}
          height={tall * k}
          fill="color-mix(in srgb, var(--indigo) 14%, transparent)"
          stroke="var(--indigo)"
          strokeDasharray="3 3"
        />
      )}
      <g transform={`translate(${at} 0)`} stroke="var(--persimmon)">
        <line y1={HIGH} y2={HIGH - tall * k} />
        <line x1="-4" x2="4" y1={HIGH} y2={HIGH} />
        <line x1="-4" x2="4" y1={HIGH - tall * k} y2={HIGH - tall * k} />
      </g>
      <text x={at + 6} y={HIGH - (tall * k) / 2} fontSize="13" fill="var(--persimmon)">
        {tall.toFixed(1)}
      </text>
      <text y={HIGH + 16} fontSize="11" fill="var(--faded)">
        {silhouette ? "outline from the front, to scale" : "its box from the front, to scale"}
      </text>
    </svg>
  );
}
