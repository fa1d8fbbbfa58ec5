import type { AbilityRow } from "../api/memory";

const [WIDE, HIGH] = [132, 96];
const GROUND = 82;
const line = { stroke: "var(--indigo)", strokeWidth: 1.6, fill: "none" };
const body = { stroke: "var(--indigo)", strokeWidth: 1.2, fill: "var(--section)" };
const SCALE_MM = 16;
/** A size in mm as it is drawn: never thinner than it can be seen, nor wider than there is room. */
const px = (mm: number) => Math.min(60, Math.max(2, mm * SCALE_MM));

/** The test piece of a capability, drawn at what it can do: every angle is drawn as it is measured. */
export function Drawn({ ability }: { ability: AbilityRow }) {
  return (
    <svg width={WIDE} height={HIGH} role="img" aria-label={`${ability.title}, drawn`}>
      <line x1="4" x2={WIDE - 4} y1={GROUND} y2={GROUND} stroke="var(--thread)" />
      {shapeOf(ability)}
    </svg>
  );
}

function shapeOf({ code, safe }: AbilityRow) {
  if (code === "overhang") return <Leaning degrees={safe} />;
  if (code === "bridge") {
    const half = Math.min(54, 10 + safe * 1.2);
    return (
      <g {...body}>
        <rect x={66 - half - 8} y={44} width="8" height={GROUND - 44} />
        <rect x={66 + half} y={44} width="8" height={GROUND - 44} />
        <rect x={66 - half - 8} y={36} width={2 * half + 16} height="8" />
        <text x="66" y="64" textAnchor="middle" fontSize="11" fill="var(--faded)" stroke="none">
          {safe.toFixed(0)} mm
        </text>
      </g>
    );
  }
  if (code === "gap" || code === "clearance") {
    const gap = px(safe * 4);
    return code === "gap" ? (
      <g {...body}>
        <rect x="26" y={30} width="80" height="12" />
        <rect x="38" y={42 + gap} width="56" height={GROUND - 42 - gap} fill="url(#p-stripes)" />
      </g>
    ) : (
      <g {...body}>
        <path d={`M26 36H${58 - gap}V${GROUND}H26ZM${74 + gap} 36H106V${GROUND}H${74 + gap}Z`} />
        <rect x="58" y="20" width="16" height={GROUND - 26} />
      </g>
    );
  }
  if (code === "hole")
    return (
      <g {...body}>
        <rect x="26" y="40" width="80" height={GROUND - 40} />
        <circle cx="66" cy="61" r={px(safe) / 2} fill="var(--cotton)" />
      </g>
    );
  if (code === "tip")
    return (
      <g {...body}>
        <rect x="26" y="20" width="80" height="14" />
        <path d={`M${66 - px(safe) / 2} 34h${px(safe)}L74 ${GROUND}h-16Z`} />
      </g>
    );
  const wide = px(safe);
  if (code === "sheet")
    return (
      <g {...body}>
        <rect x="28" y={GROUND - 8} width="76" height="8" />
        <path d={`M44 24l40-12h${wide}v${GROUND - 32}l-40 12h${-wide}Z`} />
        <path d={`M44 24h${wide}l40-12M${44 + wide} 24V${GROUND - 8}`} fill="none" />
      </g>
    );
  return (
    <g {...body}>
      <rect x="40" y={GROUND - 8} width="52" height="8" />
      <rect x={66 - wide / 2} y="20" width={wide} height={GROUND - 28} />
    </g>
  );
}

/** A tongue that leans: its angle from the vertical and from the plate, both as arcs. */
function Leaning({ degrees }: { degrees: number }) {
  const lean = (degrees * Math.PI) / 180;
  const [x, y] = [30 + 72 * Math.sin(lean), GROUND - 72 * Math.cos(lean)];
  const on = (r: number, angle: number) =>
    `${30 + r * Math.sin(angle)} ${GROUND - r * Math.cos(angle)}`;
  return (
    <g>
      <line x1="30" y1={GROUND} x2="30" y2="10" stroke="var(--thread)" strokeDasharray="3 3" />
      <line x1="30" y1={GROUND} x2={x} y2={y} {...line} strokeWidth="5" />
      <path d={`M${on(30, 0)}A30 30 0 0 1 ${on(30, lean)}`} {...line} stroke="var(--persimmon)" />
      <path
        d={`M${on(44, lean)}A44 44 0 0 1 ${on(44, Math.PI / 2)}`}
        {...line}
        stroke="var(--water)"
      />
      <text x="34" y="20" fontSize="11" fill="var(--persimmon)">
        {degrees.toFixed(0)}°
      </text>
      <text x="84" y={GROUND - 6} fontSize="11" fill="var(--faded)">
        {(90 - degrees).toFixed(0)}°
      </text>
    </g>
  );
}
