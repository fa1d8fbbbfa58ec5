import { useHazardKinds } from "../api/queries";

/** What the ribbon marks beside hazards. */
const MARKS: Record<string, { pattern: string; name: string }> = {
  tips: { pattern: "stripes", name: "supports start" },
};

export function PatternDefs() {
  const p = "var(--persimmon)";
  const w = "var(--water)";
  return (
    <svg width="0" height="0" aria-hidden className="absolute">
      <defs>
        <pattern id="p-scales" width="10" height="8" patternUnits="userSpaceOnUse">
          <rect width="10" height="8" fill={p} opacity="0.14" />
          <path
            d="M0 4a5 4 0 0 0 10 0M-5 8a5 4 0 0 0 10 0M5 8a5 4 0 0 0 10 0M-5 0a5 4 0 0 0 10 0M5 0a5 4 0 0 0 10 0"
            fill="none"
            stroke={p}
            strokeWidth="1"
          />
        </pattern>
        <pattern id="p-waves" width="12" height="6" patternUnits="userSpaceOnUse">
          <rect width="12" height="6" fill={w} opacity="0.16" />
          <path d="M0 3q3-4 6 0t6 0" fill="none" stroke={w} strokeWidth="1.2" />
        </pattern>
        <pattern id="p-rain" width="6" height="6" patternUnits="userSpaceOnUse">
          <path d="M1 0v3M4 3v3" stroke={p} strokeWidth="1.1" />
        </pattern>
        <pattern id="p-hemp" width="12" height="12" patternUnits="userSpaceOnUse">
          <path d="M6 0v12M0 6h12M0 0l12 12M12 0L0 12" stroke={p} strokeWidth="0.8" fill="none" />
        </pattern>
        <pattern id="p-rope" width="8" height="8" patternUnits="userSpaceOnUse">
          <path
            d="M-2 6q4-8 8-4M2 10q4-8 8-4"
            stroke="var(--indigo)"
            strokeWidth="1.1"
            fill="none"
          />
        </pattern>
        <pattern id="p-stripes" width="5" height="5" patternUnits="userSpaceOnUse">
          <path d="M1 0v5" stroke="var(--indigo)" strokeWidth="1.6" />
        </pattern>
        <pattern id="p-dots" width="6" height="6" patternUnits="userSpaceOnUse">
          <circle cx="2" cy="2" r="1.1" fill={p} />
          <circle cx="5" cy="5" r="1.1" fill={p} />
        </pattern>
        <pattern
          id="p-chance"
          width="5"
          height="5"
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <rect width="2.4" height="5" fill={p} />
        </pattern>
        <pattern id="p-sea" width="28" height="14" patternUnits="userSpaceOnUse">
          <g fill="none" stroke="currentColor" strokeWidth="0.9">
            <path d="M0 14a14 14 0 0 1 28 0M5 14a9 9 0 0 1 18 0M10 14a4 4 0 0 1 8 0" />
            <path d="M-14 7a14 14 0 0 1 28 0M-9 7a9 9 0 0 1 18 0" />
            <path d="M14 7a14 14 0 0 1 28 0M19 7a9 9 0 0 1 18 0" />
          </g>
        </pattern>
      </defs>
    </svg>
  );
}

/** The dyed pattern of a kind of hazard: the same on ribbon, lists and figure. */
export function Swatch({ code, size = 16 }: { code: string; size?: number }) {
  const kinds = useHazardKinds();
  const kind = MARKS[code] ?? kinds[code];
  return (
    <svg
      width={size * 1.3}
      height={size}
      role="img"
      aria-label={kind?.name ?? code}
      className="inline-block shrink-0 align-middle"
    >
      <rect
        x="0.5"
        y="0.5"
        width={size * 1.3 - 1}
        height={size - 1}
        fill={`url(#p-${kind?.pattern ?? "dots"})`}
        stroke="var(--thread)"
      />
    </svg>
  );
}

const WIDE = 36;
/** A bar that is narrower than its pattern reads as a mark of its own. */
const LEAST = 4;

/** A chance as a short hatched bar, with its number beside it. */
export function ChanceBar({ chance }: { chance: number }) {
  const width = Math.round(chance * WIDE);
  return (
    <span className="inline-flex items-center justify-end gap-1.5">
      <svg width={WIDE} height="9" aria-hidden>
        {width >= LEAST && <rect x={WIDE - width} width={width} height="9" fill="url(#p-chance)" />}
      </svg>
      <span>{Math.round(chance * 100)}</span>
    </span>
  );
}
