import { useState } from "react";
import { Link } from "react-router";
import { api, need } from "../api/client";
import { useAble, useDeed, type SeriesWhole } from "../api/memory";
import { useMaterials, usePrinters } from "../api/queries";
import { Pick } from "../ui/Pick";

/** Let a series' yes and no tell what a machine can do. */
export function Tells({ series }: { series: SeriesWhole }) {
  const responses = Object.entries(series.spec.responses)
    .filter(([, kind]) => kind === "yesno")
    .map(([name]) => name);
  const numeric = Object.entries(series.spec.factors)
    .filter(([, levels]) => levels.every((level) => typeof level === "number"))
    .map(([name]) => name);
  if (!responses.length || !numeric.length) return null;
  return <Ask series={series} responses={responses} factors={numeric} />;
}

interface Props {
  series: SeriesWhole;
  responses: string[];
  factors: string[];
}

function Ask({ series, responses, factors }: Props) {
  const printers = usePrinters().data ?? [];
  const materials = useMaterials().data ?? [];
  const [printer, setPrinter] = useState<number | null>(null);
  const on =
    printers.find((p) => p.id === printer) ??
    printers.find((p) => series.name.includes(p.name)) ??
    printers.at(0);
  const fitting = materials.filter((m) => m.process === on?.process);
  const [material, setMaterial] = useState<number | null>(null);
  const of = fitting.find((m) => m.id === material) ?? fitting.at(0);
  const [ability, setAbility] = useState("");
  const able = useAble(on?.id ?? 0, of?.id ?? null).data?.abilities ?? [];
  const tell = useDeed(
    "able",
    () =>
      need(
        api.POST("/api/series/{number}/tells", {
          params: { path: { number: series.id } },
          body: {
            printer_id: on?.id ?? 0,
            material_id: of?.id ?? 0,
            ability,
            factor: factors[0],
            response: responses[0],
          },
        }),
      ),
    "Told. The machine's page has it as evidence.",
  );
  return (
    <div className="mt-4">
      <h2 className="text-[18px]">Let it tell what a machine can do</h2>
      <p className="text-[13px] text-faded">
        Its {responses[0]} by {factors[0]} becomes evidence.
      </p>
      <div className="mt-1 flex flex-wrap gap-2">
        <Pick
          label="Printer"
          value={String(on?.id ?? "")}
          options={printers.map((p) => ({ value: String(p.id), text: p.name }))}
          onValue={(v) => {
            setPrinter(Number(v));
            setAbility("");
          }}
        />
        <Pick
          label="Material"
          value={String(of?.id ?? "")}
          options={fitting.map((m) => ({ value: String(m.id), text: m.name }))}
          onValue={(v) => setMaterial(Number(v))}
        />
        <Pick
          label="Capability"
          value={ability}
          options={able.map((a) => ({ value: a.code, text: a.title }))}
          onValue={setAbility}
          className="min-w-44"
        />
        <button
          type="button"
          className="quiet"
          disabled={!ability || tell.isPending}
          onClick={() => tell.mutate(undefined)}
        >
          Tell it
        </button>
      </div>
      {on && (
        <Link className="mt-1 inline-block text-indigo underline" to={`/able/${on.id}`}>
          What {on.name} can do
        </Link>
      )}
    </div>
  );
}
