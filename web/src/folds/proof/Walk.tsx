import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useHotkeys } from "react-hotkeys-hook";
import { api, need, problemOf, type PlanState, type Schemas } from "../../api/client";
import { Swatch } from "../../patterns/Patterns";
import { count } from "../../shell/format";
import { LayerSlide } from "./LayerSlide";
import { useLayer } from "./useLayer";

type Layer = Schemas["LayerDoc"];
type Stop = Schemas["StopDoc"];
type Loops = Layer["figure"];

/** What a walker looks for, the pattern that marks it elsewhere, and what its button says. */
const KINDS = [
  ["starts", "island", "starts in mid air"],
  ["hangs", "overhang", "reaches out"],
  ["pulls", "sealed", "pulls"],
  ["strings", "strings", "strings"],
  ["else", "thin", "other hazards"],
] as const;
const ROOM_MM = 1;

/** The nearest stop after a layer, or before it; of one kind, or of any. */
export function stopFrom(
  stops: readonly Stop[],
  layer: number,
  by: 1 | -1,
  kind?: string,
): Stop | undefined {
  const such = stops.filter((s) => (!kind || s.kind === kind) && (s.layer - layer) * by > 0);
  return such.reduce<Stop | undefined>(
    (best, s) => (!best || (best.layer - s.layer) * by > 0 ? s : best),
    undefined,
  );
}

const pathOf = (loops: Loops) =>
  loops
    .map((loop) => `M${loop.map(([x, y]) => `${x.toFixed(3)} ${(-y).toFixed(3)}`).join("L")}Z`)
    .join("");

interface Props {
  plan: PlanState;
  proof: string | null;
  layers: number;
  stops: readonly Stop[];
  onStop: (stop: Stop) => void;
}

/** The proved plan, layer by layer, with the next thing worth a look one key away. */
export function Walk({ plan, proof, layers, stops, onStop }: Props) {
  const { layer, put } = useLayer(layers);
  const { data, error } = useQuery({
    queryKey: ["walk", plan.id, proof, layer],
    queryFn: () =>
      need(
        api.GET("/api/plans/{number}/walk/{layer}", {
          params: { path: { number: plan.id, layer } },
        }),
      ),
    enabled: !!proof,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
  const goTo = (stop: Stop | undefined) => {
    if (!stop) return;
    put(stop.layer);
    onStop(stop);
  };
  const next = (by: 1 | -1, kind?: string) => goTo(stopFrom(stops, layer, by, kind));
  useHotkeys("n", () => next(1), [layer, stops]);
  useHotkeys("shift+n", () => next(-1), [layer, stops]);
  useHotkeys("comma", () => put(layer - 1), [layer]);
  useHotkeys("period", () => put(layer + 1), [layer]);
  const here = stops.filter((s) => s.layer === layer);
  return (
    <section aria-label="Walk through the layers" className="mt-1 text-[13px]">
      <LayerSlide label="Layer walked" layer={layer} layers={layers} onLayer={(v) => put(v)}>
        layer {count(layer)} of {count(layers)}
        {data ? `, ${data.z_mm.toFixed(2)} mm` : ""}
      </LayerSlide>
      <div className="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1">
        <button
          type="button"
          className="text-indigo underline decoration-thread underline-offset-2 disabled:opacity-40"
          disabled={!stopFrom(stops, layer, 1)}
          onClick={() => next(1)}
        >
          next that is worth a look <kbd className="text-[11px]">N</kbd>
        </button>
        {KINDS.map(([kind, pattern, name]) => {
          const many = stops.filter((s) => s.kind === kind).length;
          const after = stopFrom(stops, layer, 1, kind) ?? stopFrom(stops, 0, 1, kind);
          return many ? (
            <button
              key={kind}
              type="button"
              className="flex items-center gap-1.5 underline decoration-thread underline-offset-2"
              title={`the next that ${name}`}
              onClick={() => goTo(after)}
            >
              <Swatch code={pattern} size={13} />
              {name} <b className="font-medium tabular-nums">{count(many)}</b>
            </button>
          ) : null;
        })}
      </div>
      {error && <p className="mt-2 text-persimmon">{problemOf(error).message}</p>}
      {data && <Drawn of={data} stops={here} />}
      <ul aria-live="polite" className="mt-1 min-h-[1.4em]">
        {here.map((s) => (
          <li key={`${s.kind} ${s.said}`}>{s.said}</li>
        ))}
      </ul>
    </section>
  );
}

/** What is drawn of a layer, from the lowest up. */
const PARTS = [
  { part: "below", fill: "none", stroke: "var(--faded)", strokeDasharray: "3 3" },
  { part: "figure", fill: "var(--section)", stroke: "var(--clay)" },
  { part: "supports", fill: "var(--indigo)", fillOpacity: 0.35, stroke: "var(--indigo)" },
  { part: "air", fill: "var(--persimmon)", fillOpacity: 0.55, stroke: "var(--persimmon)" },
] as const;

/** A layer from above: what is there, what lies below it, and what of it lies over air. */
function Drawn({ of, stops }: { of: Layer; stops: readonly Stop[] }) {
  const [x0, y0, x1, y1] = of.box;
  const [wide, deep] = [x1 - x0 + 2 * ROOM_MM, y1 - y0 + 2 * ROOM_MM];
  const thin = { vectorEffect: "non-scaling-stroke" } as const;
  const air = of.air_mm2 >= 0.05 ? `, ${of.air_mm2.toFixed(1)} mm² of it over air` : "";
  return (
    <>
      <svg
        role="img"
        aria-label={`Layer ${of.layer}: ${of.area_mm2.toFixed(1)} mm²${air}`}
        viewBox={`${x0 - ROOM_MM} ${-y1 - ROOM_MM} ${wide} ${deep}`}
        className="mt-2 block h-[250px] w-full max-w-[680px] border border-thread bg-paper"
      >
        {PARTS.map(({ part, ...look }) => (
          <path key={part} d={pathOf(of[part])} fillRule="evenodd" {...look} {...thin} />
        ))}
        {stops.map((s) => (
          <circle
            key={`${s.kind} ${s.x_mm} ${s.y_mm}`}
            cx={s.x_mm}
            cy={-s.y_mm}
            r={Math.max(wide, deep) / 40}
            fill="none"
            stroke="var(--persimmon)"
            strokeWidth="1.6"
            {...thin}
          />
        ))}
      </svg>
      <p className="mt-1 text-faded">
        {of.area_mm2.toFixed(1)} mm²{air}. Dashed: the layer below. Blue: supports. Filled red: what
        lies farther out than a layer carries.
      </p>
    </>
  );
}
