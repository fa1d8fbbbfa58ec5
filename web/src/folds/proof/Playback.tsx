import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState, type ReactNode } from "react";
import { api, need, problemOf, type PrintFile, type Schemas } from "../../api/client";
import { count } from "../../shell/format";
import { Slide } from "../../ui/Slide";
import { clockOf, drawLayer, movesBy } from "./draw";
import { LayerSlide } from "./LayerSlide";
import { useLayer } from "./useLayer";

type Strip = Schemas["StripDoc"];
const SPEEDS = [10, 60, 300];
const TICK_MS = 50;

/** Where a written file is played from: a name of its own, its lines and its pixels by layer. */
export interface Source {
  key: string;
  lines: (layer: number) => Promise<Schemas["LayerPathDoc"]>;
  pixels: (layer: number, hangs: boolean) => string;
}

/** A plan's own file. */
export const ofPlan = (plan: number, sha: string): Source => ({
  key: `plan ${plan} ${sha}`,
  lines: (layer) =>
    need(
      api.GET("/api/plans/{number}/printfile/lines/{layer}", {
        params: { path: { number: plan, layer } },
      }),
    ),
  pixels: (layer, hangs) =>
    `/api/plans/${plan}/printfile/pixels/${layer}?of=${sha.slice(0, 12)}&hangs=${hangs}`,
});

/** The written file, played: lines as they are drawn, or pixels as they are lit. */
export function Playback({ from, file, strip }: { from: Source; file: PrintFile; strip?: Strip }) {
  const { layer, move, put } = useLayer(file.layers);
  const pull = strip?.has_pull
    ? strip.pull_n[Math.floor((layer - 1) / strip.layers_per_column)]
    : undefined;
  const lines = file.kind === "gcode";
  return (
    <section aria-label="Playback" className="mt-2">
      <LayerSlide label="Layer played" layer={layer} layers={file.layers} onLayer={(v) => put(v)}>
        layer {count(layer)} of {count(file.layers)}
        {!lines && `, ${(layer * file.layer_height_mm).toFixed(2)} mm`}
      </LayerSlide>
      {lines ? (
        <Lines from={from} layer={layer} move={move} put={put} />
      ) : (
        <Pixels from={from} layer={layer} pull={pull} />
      )}
    </section>
  );
}

interface ShownProps {
  on: boolean;
  onChange: (on: boolean) => void;
  children: ReactNode;
}

/** What is shown on request. */
function Shown({ on, onChange, children }: ShownProps) {
  return (
    <label className="flex items-center gap-1.5">
      <input
        type="checkbox"
        checked={on}
        onChange={(e) => {
          onChange(e.target.checked);
        }}
      />
      {children}
    </label>
  );
}

interface Lit {
  from: Source;
  layer: number;
  pull?: number;
}

/** A layer as the screen lights it, what hangs in it striped on request, and how hard the film pulls at it. */
function Pixels({ from, layer, pull }: Lit) {
  const [hangs, setHangs] = useState(false);
  return (
    <>
      <img
        className="mt-2 block max-h-[360px] w-full max-w-[680px] border border-thread bg-ink object-contain"
        style={{ imageRendering: "pixelated" }}
        src={from.pixels(layer, hangs)}
        alt={`Layer ${layer} as the screen lights it${hangs ? ", what hangs striped" : ""}`}
      />
      <div className="mt-1 flex items-center gap-4 text-[13px]">
        <Shown on={hangs} onChange={setHangs}>
          stripe what is lit over nothing
        </Shown>
        {pull != null && (
          <span className="text-faded">The film pulls with {pull.toFixed(2)} N.</span>
        )}
      </div>
    </>
  );
}

interface Played {
  from: Source;
  layer: number;
  move: number | null;
  put: (layer: number, move: number | null) => void;
}

function useLines(from: Source, layer: number, enabled = true) {
  return useQuery({
    queryKey: ["played", from.key, layer],
    queryFn: () => from.lines(layer),
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    enabled,
  });
}

function Lines({ from, layer, move, put }: Played) {
  const [travels, setTravels] = useState(false);
  const [blemishes, setBlemishes] = useState(false);
  const [speed, setSpeed] = useState<number | null>(null);
  const { data: path, error } = useLines(from, layer);
  const { data: below } = useLines(from, layer - 1, layer > 1);
  const canvas = useRef<HTMLCanvasElement>(null);
  const moves = path?.kind.length ?? 0;
  const upTo = Math.min(move ?? moves, moves);
  const clock = path ? clockOf(path) : [];
  const [now, all] = [upTo ? (clock[upTo - 1] ?? 0) : 0, clock[moves - 1] ?? 0];
  useEffect(() => {
    if (canvas.current && path)
      drawLayer(canvas.current, path, {
        upTo,
        travels,
        blemishes,
        below: layer > 1 ? below : null,
      });
  }, [path, below, upTo, travels, blemishes, layer]);
  useEffect(() => {
    if (speed == null || !path) return;
    const timer = setTimeout(() => {
      const next = movesBy(clock, now + (speed * TICK_MS) / 1000);
      if (next >= moves) setSpeed(null);
      put(layer, Math.max(next, Math.min(upTo + 1, moves)));
    }, TICK_MS);
    return () => clearTimeout(timer);
  });
  if (error) return <p className="text-persimmon">{problemOf(error).message}</p>;
  const kind = path && upTo ? path.kinds[path.kind[upTo - 1]] : "";
  return (
    <>
      <canvas
        ref={canvas}
        aria-label={`Lines of layer ${layer}, ${count(upTo)} of ${count(moves)} moves drawn`}
        className="mt-2 block h-[340px] w-full max-w-[680px] border border-thread bg-paper"
      />
      <div className="mt-1 flex max-w-[680px] items-center gap-2 text-[13px]">
        <Slide
          label="Move played"
          value={upTo}
          min={0}
          max={Math.max(1, moves)}
          step={1}
          said={`${now.toFixed(0)} of ${all.toFixed(0)} seconds`}
          onValue={(v) => {
            setSpeed(null);
            put(layer, Math.max(1, v));
          }}
        />
        <span className="w-64 text-right tabular-nums" aria-live="off">
          {path ? `${path.z_mm.toFixed(2)} mm, ` : ""}
          {now.toFixed(0)} of {all.toFixed(0)} s, {kind}
        </span>
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-2 text-[13px]">
        {SPEEDS.map((times) => (
          <button
            key={times}
            type="button"
            className="quiet px-2 py-0.5"
            aria-pressed={speed === times}
            onClick={() => {
              if (upTo >= moves) put(layer, 1);
              setSpeed(speed === times ? null : times);
            }}
          >
            {speed === times ? "hold" : `${times} times as fast`}
          </button>
        ))}
        <Shown on={travels} onChange={setTravels}>
          travels too
        </Shown>
        <Shown on={blemishes} onChange={setBlemishes}>
          where lines begin ({path?.begins.length ?? 0}) and strings ({path?.strings.length ?? 0})
        </Shown>
        <span className="text-faded">Broad and pale: the layer below.</span>
      </div>
    </>
  );
}
