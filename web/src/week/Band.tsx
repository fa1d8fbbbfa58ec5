import { useState, type PointerEvent } from "react";
import { called, minuteOf, orderOf, sayTime, timeOf, usePin, type Run, type Week } from "./api";
import { Knots, LETTER, TOP, WIDE } from "./Knots";

const LEFT = 118;
const ROW = 52;
const THIN = 30;
const KNOTS = 84;
const DAY = 24 * 60;
const NAMES = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"];

/** A patch with a ragged end: from when it would end to when it has ended in 19 of 20 cases. */
export function ragged(x: number, end: number, late: number, y: number, high: number): string {
  const teeth = [0.15, 0.75, 0.35, 1, 0.5, 0.1];
  const far = Math.max(late - end, 2);
  const step = high / (teeth.length - 1);
  const edge = teeth.map(
    (t, i) => `L${(end + far * (t - 0.2)).toFixed(1)} ${(y + i * step).toFixed(1)}`,
  );
  return `M${x.toFixed(1)} ${y}${edge.join("")}L${x.toFixed(1)} ${y + high}Z`;
}

/** What the ground tells: when somebody is awake, and when it is quiet. */
const GROUNDS = [
  ["awake", "var(--paper)"],
  ["quiet", "url(#wk-quiet)"],
] as const;

/** As much of a name as there is room for; nothing where that tells nobody anything. */
export function shortened(name: string, room: number): string {
  const letters = Math.floor(room / LETTER);
  if (letters >= name.length) return name;
  return letters < 5 ? "" : `${name.slice(0, letters - 1)}…`;
}

interface Props {
  week: Week;
  chosen: string | null;
  onChosen: (job: string | null) => void;
}

/** Days along it, each machine and station a warp thread, runs woven in as patches, dates as knots. */
export function Band({ week, chosen, onChosen }: Props) {
  const pin = usePin();
  const [drag, setDrag] = useState<{ job: string; from: number; to: number } | null>(null);
  const a = minuteOf(week.begin);
  const b = minuteOf(week.end);
  const x = (m: number) => LEFT + ((m - a) / (b - a)) * (WIDE - LEFT);
  const runs = week.week?.runs ?? [];
  const kinds = new Map<string, string>(week.house.stations.map((s) => [s.kind, s.name]));
  const stationY = (k: number) => TOP + week.machines.length * ROW + k * THIN;
  const stations = [...kinds];
  const foot = stationY(stations.length);
  const high = foot + KNOTS;
  const days: number[] = [];
  for (let d = Math.ceil(a / DAY) * DAY; d < b; d += DAY) days.push(d);
  const sure = new Map((week.week?.dates ?? []).map((d) => [d.job, d.chance]));
  const weak = (run: Run) => {
    const of = orderOf(week, run.job);
    const chance = sure.get(run.job);
    return of != null && chance != null && chance < of.order.chance;
  };
  /** How far a run's name may reach: to the next on its machine. */
  const roomOf = (run: Run, from: number) => {
    const next = runs
      .filter((r) => r.machine === run.machine && r.start > run.start)
      .map((r) => x(minuteOf(r.start)));
    return Math.min(WIDE, ...next) - from - 4;
  };
  const scale = (e: PointerEvent<SVGSVGElement>) => {
    const m = e.currentTarget.getScreenCTM();
    return m ? new DOMPoint(e.clientX, e.clientY).matrixTransform(m.inverse()).x : 0;
  };
  const up = () => {
    if (!drag) return;
    const run = runs.find((r) => r.job === drag.job);
    const of = orderOf(week, drag.job);
    setDrag(null);
    const by = ((drag.to - drag.from) / (WIDE - LEFT)) * (b - a);
    if (!run || !of || Math.abs(drag.to - drag.from) < 4) return;
    const at = Math.max(a, Math.round((minuteOf(run.start) + by) / 15) * 15);
    pin.mutate({ order: of.order.id, pin: { nth: of.nth, not_before: timeOf(at), first: false } });
  };
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${high}`}
      className="w-full touch-none"
      role="group"
      aria-label={`The week: ${runs.length} runs on ${week.machines.length} machines`}
      onPointerDown={(e) => {
        const job = (e.target as Element).getAttribute("data-job");
        onChosen(job);
        if (!job) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        const at = scale(e);
        setDrag({ job, from: at, to: at });
      }}
      onPointerMove={(e) => drag && setDrag({ ...drag, to: scale(e) })}
      onPointerUp={up}
    >
      <defs>
        <pattern
          id="wk-hangs"
          width={7}
          height={7}
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <rect width={7} height={7} fill="var(--indigo)" />
          <path d="M2 0V7" stroke="var(--water)" strokeWidth={2.4} />
        </pattern>
        <pattern id="wk-stands" width={8} height={8} patternUnits="userSpaceOnUse">
          <rect width={8} height={8} fill="var(--moss)" />
          <path d="M0 4H8M4 0V8" stroke="var(--cotton)" strokeOpacity={0.35} />
        </pattern>
        <pattern
          id="wk-weak"
          width={7}
          height={7}
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <rect width={7} height={7} fill="var(--paper)" />
          <path d="M2 0V7" stroke="var(--persimmon)" strokeWidth={3.2} />
        </pattern>
        <pattern id="wk-waits" width={10} height={8} patternUnits="userSpaceOnUse">
          <rect width={10} height={8} fill="var(--paper)" />
          <path d="M0 4Q2.5 1 5 4T10 4" fill="none" stroke="var(--water)" />
        </pattern>
        <pattern id="wk-quiet" width={6} height={5} patternUnits="userSpaceOnUse">
          <path d="M0 2H6" stroke="var(--thread)" strokeWidth={0.7} />
        </pattern>
      </defs>
      <rect x={LEFT} y={TOP} width={WIDE - LEFT} height={foot - TOP} fill="var(--folded)" />
      {GROUNDS.map(([of, fill]) =>
        week[of].map(([from, to]) => (
          <rect
            key={`${of} ${from}`}
            x={x(minuteOf(from))}
            width={Math.max(0, x(minuteOf(to)) - x(minuteOf(from)))}
            y={TOP}
            height={foot - TOP}
            fill={fill}
          />
        )),
      )}
      {days.map((d) => {
        const date = new Date(d * 60_000);
        return (
          <g key={d}>
            <line x1={x(d)} x2={x(d)} y1={TOP} y2={foot} stroke="var(--thread)" />
            <text x={x(d) + 5} y={TOP - 8} fontSize={12.5} fill="var(--ink)">
              {NAMES[date.getUTCDay()]} {date.getUTCDate()}
            </text>
          </g>
        );
      })}
      {week.machines.map((name, i) => (
        <g key={name}>
          <text x={0} y={TOP + i * ROW + 26} fontSize={13.5} fill="var(--ink)">
            {name}
          </text>
          {[12, 22, 32].map((dy) => (
            <line
              key={dy}
              x1={LEFT}
              x2={WIDE}
              y1={TOP + i * ROW + dy}
              y2={TOP + i * ROW + dy}
              stroke="var(--thread)"
              strokeWidth={0.8}
            />
          ))}
        </g>
      ))}
      {stations.map(([kind, name], i) => (
        <g key={kind}>
          <text x={0} y={stationY(i) + 17} fontSize={13.5} fill="var(--faded)">
            {name}
          </text>
          <line
            x1={LEFT}
            x2={WIDE}
            y1={stationY(i) + 13}
            y2={stationY(i) + 13}
            stroke="var(--thread)"
            strokeWidth={0.8}
          />
        </g>
      ))}
      {week.running.map((r) => {
        const i = week.machines.indexOf(r.machine);
        const [from, to] = [Math.max(LEFT, x(minuteOf(r.started_at))), x(minuteOf(r.ends_at))];
        return (
          <g key={r.run_id}>
            <path
              d={ragged(from, to, to + 6, TOP + i * ROW + 8, 28)}
              fill="var(--clay)"
              stroke="var(--ink)"
              strokeWidth={0.8}
            />
            <text x={from + 2} y={TOP + i * ROW + 48} fontSize={11.5} fill="var(--ink)">
              {r.figure_name}, running
            </text>
          </g>
        );
      })}
      {runs.map((run) => {
        const i = week.machines.indexOf(run.machine);
        const moved = drag?.job === run.job ? drag.to - drag.from : 0;
        const [from, to, late] = [run.start, run.end, run.end_95].map((t) => x(minuteOf(t)));
        const y = TOP + i * ROW + 8;
        const pinned = orderOf(week, run.job);
        const hangs = run.alone.some((s) => week.stations[s.what] === "wash");
        const fill = weak(run) ? "url(#wk-weak)" : hangs ? "url(#wk-hangs)" : "url(#wk-stands)";
        return (
          <g key={run.job} transform={`translate(${moved} 0)`}>
            <path
              data-job={run.job}
              d={ragged(from, to, late, y, 28)}
              fill={fill}
              stroke="var(--ink)"
              strokeWidth={chosen === run.job ? 2.2 : 0.9}
              strokeDasharray={pinned?.order.pinned.includes(pinned.nth) ? "4 2" : undefined}
              className="cursor-grab"
            >
              <title>{`${called(run.job)}, ${sayTime(run.start, week.now)} to ${sayTime(run.end, week.now)}`}</title>
            </path>
            <text x={from} y={y + 40} fontSize={11.5} fill="var(--ink)" pointerEvents="none">
              {shortened(called(run.job), roomOf(run, from))}
            </text>
          </g>
        );
      })}
      {runs.flatMap((run) =>
        run.alone.map((step) => {
          const k = stations.findIndex(([kind]) => kind === week.stations[step.what]);
          if (k < 0) return null;
          const from = x(minuteOf(step.at));
          return (
            <rect
              key={`${run.job} ${step.what} ${step.at}`}
              x={from}
              y={stationY(k) + 6}
              width={Math.max(3, x(minuteOf(step.at) + step.minutes) - from)}
              height={15}
              fill="url(#wk-waits)"
              stroke="var(--indigo)"
              strokeWidth={0.7}
            >
              <title>{`${step.what}: ${called(run.job)}, ${sayTime(step.at, week.now)}, ${step.minutes} min`}</title>
            </rect>
          );
        }),
      )}
      <text x={x(minuteOf(week.now)) + 3} y={TOP - 18} fontSize={11} fill="var(--faded)">
        now
      </text>
      <line
        x1={x(minuteOf(week.now))}
        x2={x(minuteOf(week.now))}
        y1={TOP - 4}
        y2={foot}
        stroke="var(--ink)"
        strokeDasharray="2 3"
      />
      <Knots week={week} x={x} foot={foot} end={b} />
    </svg>
  );
}
