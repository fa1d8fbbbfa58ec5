import { codeOf, type Kind } from "../../patterns/kinds";

/** Each kind with its key, its word, and what it asks of the supports. */
export const KIND: { name: Kind; key: string; title: string; text: string }[] = [
  { name: "show", key: "s", title: "Show", text: "looked at: a scar costs five times (prior)" },
  { name: "hidden", key: "h", title: "Hidden", text: "nobody sees it: scars are welcome" },
  { name: "fit", key: "f", title: "Fit", text: "meets another part: no tip inside" },
  { name: "keep_out", key: "k", title: "Keep out", text: "no cutter gets in: no tip" },
  { name: "hold", key: "o", title: "Hold here", text: "weak, you know it: always held" },
  { name: "none", key: "x", title: "Bare", text: "takes a mark away" },
];

/** The weave of a kind as it lies on the figure, on a swatch. */
export function Weave({ kind, size = 18 }: { kind: Kind; size?: number }) {
  const id = `m-${kind}`;
  return (
    <svg width={size * 1.3} height={size} aria-hidden className="shrink-0">
      <rect
        x="0.5"
        y="0.5"
        width={size * 1.3 - 1}
        height={size - 1}
        fill={codeOf(kind) ? `url(#${id})` : "var(--clay)"}
        stroke="var(--thread)"
      />
    </svg>
  );
}

export function MarkPatterns() {
  return (
    <svg width="0" height="0" aria-hidden className="absolute">
      <defs>
        <pattern
          id="m-show"
          width="9"
          height="9"
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <rect width="9" height="9" fill="var(--persimmon)" opacity="0.18" />
          <rect width="3.4" height="9" fill="var(--persimmon)" />
        </pattern>
        <pattern id="m-hidden" width="12" height="6" patternUnits="userSpaceOnUse">
          <rect width="12" height="6" fill="var(--water)" opacity="0.3" />
          <path d="M0 3q3-3 6 0t6 0" fill="none" stroke="var(--water)" strokeWidth="1.6" />
        </pattern>
        <pattern id="m-fit" width="7" height="7" patternUnits="userSpaceOnUse">
          <path d="M0 1h7M1 0v7" stroke="var(--indigo)" strokeWidth="1.4" />
        </pattern>
        <pattern id="m-keep_out" width="8" height="8" patternUnits="userSpaceOnUse">
          <path d="M0 0h4v4H0zM4 4h4v4H4z" fill="var(--indigo)" />
        </pattern>
        <pattern id="m-hold" width="7" height="7" patternUnits="userSpaceOnUse">
          <circle cx="3.5" cy="3.5" r="2.1" fill="var(--moss)" />
        </pattern>
      </defs>
    </svg>
  );
}
