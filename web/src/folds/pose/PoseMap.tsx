import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type MouseEvent } from "react";
import type { Down, PoseMapData } from "../../api/client";
import { useView } from "../../shell/view";
import type { Frames } from "../size/stood";
import { crest, nearest, ranks, type Better } from "./globe";

interface Pin {
  down: Down;
  text: string;
  recommended: boolean;
}

/** Pins, hand and picks are directions in the figure's own frame; the map's are its file's. */
interface Props {
  map: PoseMapData;
  frames: Frames;
  values: number[];
  better: Better;
  front: number[];
  pins: Pin[];
  shown: number;
  hand: Down | null;
  onPick: (d: Down) => void;
  onPin: (i: number) => void;
  onHover: (i: number | null) => void;
}

const R = 85;
const SHADES = 6;
const WALK: Record<string, [number, number]> = {
  ArrowLeft: [-6, 0],
  ArrowRight: [6, 0],
  ArrowUp: [0, -6],
  ArrowDown: [0, 6],
};

function mixed(from: string, to: string, share: number): [number, number, number] {
  const rgb = (c: string) => [1, 3, 5].map((i) => parseInt(c.slice(i, i + 2), 16));
  const [a, b] = [rgb(from), rgb(to)];
  const at = (i: number) => Math.round(a[i] + (b[i] - a[i]) * share);
  return [at(0), at(1), at(2)];
}

/** For each pixel of a half the weighed direction nearest to it, or -1 outside. */
function cellsOf(side: 1 | -1, downs: Float32Array): Int32Array {
  const c = crest(side, R);
  const cells = new Int32Array(4 * R * R).fill(-1);
  for (let y = 0; y < 2 * R; y++)
    for (let x = 0; x < 2 * R; x++) {
      const d = c.direction(x + 0.5, y + 0.5);
      if (d) cells[y * 2 * R + x] = nearest(downs, d);
    }
  return cells;
}

/** All directions as two crests of equal areas, dyed by one aim: pale cloth is good, deep indigo is bad. */
export function PoseMap(props: Props) {
  const { map, frames, values, better } = props;
  const own = useMemo(() => map.down.map(frames.own), [map, frames]);
  const downs = useMemo(() => Float32Array.from(own.flat()), [own]);
  const rank = useMemo(() => ranks(values, better), [values, better]);
  return (
    <div className="flex gap-5">
      {([1, -1] as const).map((side) => (
        <Half key={side} {...props} side={side} own={own} downs={downs} rank={rank} />
      ))}
    </div>
  );
}

interface HalfProps extends Props {
  side: 1 | -1;
  own: Down[];
  downs: Float32Array;
  rank: Float32Array;
}

function Half({
  side,
  own,
  downs,
  rank,
  front,
  pins,
  shown,
  hand,
  onPick,
  onPin,
  onHover,
}: HalfProps) {
  const theme = useView((s) => s.theme);
  const c = useMemo(() => crest(side, R), [side]);
  const cells = useMemo(() => cellsOf(side, downs), [side, downs]);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [focus, setFocus] = useState<Down>(hand ?? own[0]);
  useEffect(() => {
    const ink = canvas.current?.getContext("2d");
    if (!ink) return;
    const style = getComputedStyle(document.documentElement);
    const day = [
      style.getPropertyValue("--paper").trim(),
      style.getPropertyValue("--indigo").trim(),
    ];
    const [pale, deep] = theme === "night" ? ["#ece6d6", "#0d1628"] : day;
    const dye = Array.from({ length: SHADES }, (_, i) =>
      mixed(pale, deep, (i / (SHADES - 1)) * 0.92),
    );
    const image = ink.createImageData(2 * R, 2 * R);
    cells.forEach((cell, at) => {
      if (cell < 0) return;
      image.data.set([...dye[Math.min(SHADES - 1, Math.floor(rank[cell] * SHADES))], 255], 4 * at);
    });
    ink.putImageData(image, 0, 0);
  }, [cells, rank, theme]);
  const pick = (d: Down | null) => {
    if (!d) return;
    setFocus(d);
    onPick(d);
  };
  const walk = (e: KeyboardEvent) => {
    if (!(e.key in WALK)) return;
    e.preventDefault();
    const at = hand ?? focus;
    const here = c.holds(at) ? c.place(at) : [R, R];
    pick(c.direction(here[0] + WALK[e.key][0], here[1] + WALK[e.key][1]));
  };
  const under = (e: MouseEvent) => {
    const b = e.currentTarget.getBoundingClientRect();
    return [e.clientX - b.left, e.clientY - b.top] as const;
  };
  return (
    <figure className="relative" style={{ width: 2 * R }}>
      <canvas ref={canvas} width={2 * R} height={2 * R} aria-hidden className="rounded-full" />
      <svg
        width={2 * R}
        height={2 * R}
        tabIndex={0}
        role="application"
        aria-label={`${side === 1 ? "On its feet" : "On its head"}: directions as a map. Arrow keys walk it.`}
        className="absolute top-0 left-0 cursor-crosshair overflow-visible rounded-full outline-none focus-visible:outline-2 focus-visible:outline-(--water)"
        onKeyDown={walk}
        onPointerLeave={() => onHover(null)}
        onPointerMove={(e) => {
          const [x, y] = under(e);
          const cell = cells[Math.floor(y) * 2 * R + Math.floor(x)];
          onHover(cell >= 0 ? cell : null);
        }}
        onClick={(e) => pick(c.direction(...under(e)))}
      >
        <circle cx={R} cy={R} r={R - 0.5} fill="none" stroke="var(--clay)" />
        {[30, 60].map((deg) => (
          <circle
            key={deg}
            cx={R}
            cy={R}
            r={R * Math.SQRT2 * Math.sin((deg * Math.PI) / 360)}
            fill="none"
            stroke="var(--water)"
            strokeWidth="0.7"
            strokeDasharray="2 4"
          />
        ))}
        {front
          .filter((i) => c.holds(own[i]))
          .map((i) => {
            const [x, y] = c.place(own[i]);
            const path = `M${x} ${y - 1.7}l1.7 1.7-1.7 1.7-1.7-1.7z`;
            return <path key={i} d={path} fill="#4c6b3c" stroke="#faf7ef" strokeWidth="0.4" />;
          })}
        {pins.map(
          (p, i) =>
            c.holds(p.down) && (
              <PinMark
                key={i}
                pin={p}
                at={c.place(p.down)}
                number={i + 1}
                here={i === shown}
                onPin={() => onPin(i)}
              />
            ),
        )}
        {hand && c.holds(hand) && <HandMark at={c.place(hand)} />}
      </svg>
      <figcaption className="mt-0.5 flex justify-between text-[11.5px] text-faded">
        <span>{side === 1 ? "middle: on its feet" : "middle: on its head"}</span>
        <span>rim: lying</span>
      </figcaption>
    </figure>
  );
}

interface PinProps {
  pin: Pin;
  at: [number, number];
  number: number;
  here: boolean;
  onPin: () => void;
}

/** A row of the board on the map; the board itself is walked by keys. */
function PinMark({ pin, at, number, here, onPin }: PinProps) {
  return (
    <g
      transform={`translate(${at[0]} ${at[1]})`}
      className="cursor-pointer"
      onClick={(e) => {
        e.stopPropagation();
        onPin();
      }}
    >
      <title>{pin.text}</title>
      <circle
        r="9"
        fill={here ? "var(--persimmon)" : "#faf7ef"}
        stroke="var(--persimmon)"
        strokeWidth={pin.recommended ? 2.6 : 1.4}
      />
      <text
        textAnchor="middle"
        dy="4"
        fontSize="11.5"
        fontWeight="600"
        fill={here ? "#faf7ef" : "#20375f"}
      >
        {number}
      </text>
    </g>
  );
}

function HandMark({ at }: { at: [number, number] }) {
  return (
    <g transform={`translate(${at[0]} ${at[1]})`} pointerEvents="none">
      <circle r="7" fill="none" stroke="#faf7ef" strokeWidth="4" />
      <circle r="7" fill="none" stroke="var(--persimmon)" strokeWidth="2.2" />
      <path d="M-11 0h22M0-11v22" stroke="var(--persimmon)" strokeWidth="1.2" />
    </g>
  );
}
