import { useState, type PointerEvent } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import type { Box, Deeds, Lying, OnePlate, Whole } from "./api";

type Item = OnePlate["doc"]["items"][number];
type Point = [number, number];

const EDGE = 9;
const STEP_MM = 1;
const FAR_MM = 5;
const TURN = 22.5;
/** Weaves that tell the plans of a plate apart, whatever the eye makes of colours. */
const WEAVES = ["solid", "rise", "fall", "dots", "cross", "rows"] as const;

const lyingOf = (item: Item, plate: number, pinned: boolean): Lying => ({
  plan_id: Number(item.plan),
  nth: item.copy,
  plate,
  x_mm: item.x_mm,
  y_mm: item.y_mm,
  turn_deg: item.turn_deg,
  pinned,
});

const d = (ring: Point[]) =>
  `M${ring.map(([x, y]) => `${x.toFixed(2)} ${(-y).toFixed(2)}`).join("L")}Z`;

/** The middle of a piece's largest outline. */
export function middleOf(ring: Point[]): Point {
  const sum = ring.reduce<Point>(([a, b], [x, y]) => [a + x, b + y], [0, 0]);
  return [sum[0] / ring.length, sum[1] / ring.length];
}

/** A piece turned about the middle of its outline, and not about its own origin, which may lie anywhere. */
export function turnedBy(at: Lying, middle: Point, degrees: number): Lying {
  const a = (degrees * Math.PI) / 180;
  const [dx, dy] = [at.x_mm - middle[0], at.y_mm - middle[1]];
  return {
    ...at,
    x_mm: middle[0] + dx * Math.cos(a) - dy * Math.sin(a),
    y_mm: middle[1] + dx * Math.sin(a) + dy * Math.cos(a),
    turn_deg: (at.turn_deg + degrees + 720) % 360,
  };
}

interface Props {
  whole: Whole;
  plate: OnePlate;
  chosen: number | null;
  onChosen: (item: number | null) => void;
  keeping: boolean;
  onKept: (box: Box | null) => void;
  deeds: Deeds;
}

/** A plate from above, its front below: pieces are moved by hand or by keys. */
export function Bed({ whole, plate, chosen, onChosen, keeping, onKept, deeds }: Props) {
  const [drag, setDrag] = useState<{ item: number; from: Point; to: Point } | null>(null);
  const [corner, setCorner] = useState<{ from: Point; to: Point } | null>(null);
  const [wide, deep] = whole.build_mm;
  const plans = [...new Set(whole.pieces.map((p) => String(p.plan_id)))];
  const wrong = new Set(plate.wrong.flatMap((w) => w.items));
  const item = chosen == null ? undefined : plate.doc.items[chosen];
  const held = item && chosen != null ? lyingOf(item, plate.number, plate.pinned[chosen]) : null;
  const act = (make: (at: Lying) => Lying) => {
    if (held && !deeds.busy) deeds.move([make(held)]);
  };
  const by = (dx: number, dy: number) =>
    act((at) => ({ ...at, x_mm: at.x_mm + dx, y_mm: at.y_mm + dy, pinned: true }));
  const keys = { enabled: !!held, preventDefault: true };
  const on = [held, deeds.busy, whole.version] as const;
  useHotkeys("left", () => by(-STEP_MM, 0), keys, on);
  useHotkeys("right", () => by(STEP_MM, 0), keys, on);
  useHotkeys("up", () => by(0, STEP_MM), keys, on);
  useHotkeys("down", () => by(0, -STEP_MM), keys, on);
  useHotkeys("shift+left", () => by(-FAR_MM, 0), keys, on);
  useHotkeys("shift+right", () => by(FAR_MM, 0), keys, on);
  useHotkeys("shift+up", () => by(0, FAR_MM), keys, on);
  useHotkeys("shift+down", () => by(0, -FAR_MM), keys, on);
  const turn = (degrees: number) =>
    act((at) => ({ ...turnedBy(at, middleOf(item?.footprint ?? []), degrees), pinned: true }));
  useHotkeys("r", () => turn(TURN), keys, on);
  useHotkeys("shift+r", () => turn(-TURN), keys, on);
  useHotkeys("p", () => act((at) => ({ ...at, pinned: !at.pinned })), keys, on);
  useHotkeys("escape", () => onChosen(null), { enabled: chosen != null });

  const place = (e: PointerEvent<SVGSVGElement>): Point => {
    const m = e.currentTarget.getScreenCTM();
    if (!m) return [0, 0];
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(m.inverse());
    return [p.x, -p.y];
  };
  const down = (e: PointerEvent<SVGSVGElement>) => {
    e.currentTarget.setPointerCapture(e.pointerId);
    const at = place(e);
    if (keeping) return setCorner({ from: at, to: at });
    const hit = (e.target as Element).getAttribute("data-item");
    onChosen(hit == null ? null : Number(hit));
    if (hit != null) setDrag({ item: Number(hit), from: at, to: at });
  };
  const move = (e: PointerEvent<SVGSVGElement>) => {
    if (drag) setDrag({ ...drag, to: place(e) });
    if (corner) setCorner({ ...corner, to: place(e) });
  };
  const up = () => {
    if (corner) {
      onKept(boxOf(corner.from, corner.to));
      setCorner(null);
    }
    if (!drag) return;
    const [dx, dy] = [drag.to[0] - drag.from[0], drag.to[1] - drag.from[1]];
    const moved = plate.doc.items.at(drag.item);
    setDrag(null);
    if (moved && Math.hypot(dx, dy) > 0.5)
      deeds.move([
        {
          ...lyingOf(moved, plate.number, true),
          x_mm: Math.round((moved.x_mm + dx) * 10) / 10,
          y_mm: Math.round((moved.y_mm + dy) * 10) / 10,
        },
      ]);
  };
  const boxes = [...whole.free, ...(corner ? [boxOf(corner.from, corner.to)] : [])];
  return (
    <svg
      viewBox={`${-EDGE} ${-deep - EDGE} ${wide + 2 * EDGE} ${deep + 2 * EDGE}`}
      className={`min-h-0 w-full flex-1 touch-none ${keeping ? "cursor-crosshair" : ""}`}
      role="group"
      aria-label={`Plate ${plate.number + 1} from above: ${plate.doc.items.length} pieces on ${wide.toFixed(0)} mm`}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
    >
      <Weaves />
      <rect x={0} y={-deep} width={wide} height={deep} fill="var(--paper)" stroke="var(--thread)" />
      <rect
        x={2}
        y={-deep + 2}
        width={wide - 4}
        height={deep - 4}
        fill="none"
        stroke="var(--thread)"
        strokeWidth={0.5}
        strokeDasharray="3 2"
      />
      <text x={wide / 2} y={6.5} fontSize={5} textAnchor="middle" fill="var(--faded)">
        front
      </text>
      {boxes.map((b) => (
        <rect
          key={`${b.x0_mm} ${b.y0_mm} ${b.x1_mm} ${b.y1_mm}`}
          x={b.x0_mm}
          y={-b.y1_mm}
          width={Math.max(0, b.x1_mm - b.x0_mm)}
          height={Math.max(0, b.y1_mm - b.y0_mm)}
          fill="url(#pl-rows)"
          fillOpacity={0.35}
          stroke="var(--faded)"
          strokeWidth={0.5}
          strokeDasharray="1.5 1.5"
          pointerEvents="none"
        />
      ))}
      {plate.doc.items.map((of, i) => {
        const at =
          drag?.item === i
            ? `translate(${drag.to[0] - drag.from[0]} ${drag.from[1] - drag.to[1]})`
            : undefined;
        const weave = WEAVES[plans.indexOf(of.plan) % WEAVES.length];
        const [x, y] = middleOf(of.footprint);
        const bad = wrong.has(i);
        return (
          <g key={`${of.plan} ${of.copy}`} transform={at}>
            {[of.footprint, ...of.more].map((ring, j) => (
              <path
                key={j}
                data-item={i}
                d={d(ring)}
                fill={
                  bad
                    ? "var(--persimmon)"
                    : weave === "solid"
                      ? "var(--water)"
                      : `url(#pl-${weave})`
                }
                fillOpacity={bad ? 0.6 : 0.9}
                stroke={bad ? "var(--persimmon)" : "var(--indigo)"}
                strokeWidth={chosen === i ? 1.4 : 0.6}
                strokeDasharray={plate.pinned[i] ? "2 1.2" : undefined}
                className="cursor-grab"
              />
            ))}
            <circle cx={x} cy={-y} r={3.6} fill="var(--paper)" pointerEvents="none" />
            <text
              x={x}
              y={-y + 1.8}
              fontSize={5}
              textAnchor="middle"
              fill="var(--ink)"
              pointerEvents="none"
            >
              {i + 1}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

function boxOf(a: Point, b: Point): Box {
  const round = (v: number) => Math.round(v * 2) / 2;
  return {
    x0_mm: round(Math.min(a[0], b[0])),
    y0_mm: round(Math.min(a[1], b[1])),
    x1_mm: round(Math.max(a[0], b[0])),
    y1_mm: round(Math.max(a[1], b[1])),
  };
}

function Weaves() {
  const ground = <rect width={4} height={4} fill="var(--folded)" />;
  const line = { stroke: "var(--water)", strokeWidth: 1 };
  return (
    <defs>
      {(
        [
          ["rise", <path key="l" d="M-1 5L5 -1M-1 1L1 -1M3 5L5 3" {...line} />],
          ["fall", <path key="l" d="M-1 -1L5 5M3 -1L5 1M-1 3L1 5" {...line} />],
          ["dots", <circle key="l" cx={2} cy={2} r={1} fill="var(--water)" />],
          ["cross", <path key="l" d="M0 2H4M2 0V4" {...line} />],
          ["rows", <path key="l" d="M0 2H4" {...line} />],
        ] as const
      ).map(([name, drawn]) => (
        <pattern key={name} id={`pl-${name}`} width={4} height={4} patternUnits="userSpaceOnUse">
          {ground}
          {drawn}
        </pattern>
      ))}
    </defs>
  );
}
