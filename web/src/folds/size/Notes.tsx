import type { Intake, Schemas } from "../../api/client";
import { count, mm } from "../../shell/format";

export const UNIT = { mm: 1, cm: 10, m: 1000, in: 25.4 } as const;

interface UnitsProps {
  guess: Intake["health"]["unit_guess"];
  tall: number;
  factor: number;
  onFactor: (factor: number) => void;
}

/** Where the unit is a guess: the heights that each would give. */
export function Units({ guess, tall, factor, onFactor }: UnitsProps) {
  return (
    <p className="max-w-[420px] border-l-4 border-persimmon bg-paper px-3 py-1.5 text-[13px]">
      A guess: the file was modelled in {guess === "in" ? "inches" : guess}. Heights:{" "}
      {(["mm", "cm", "in", "m"] as const).map((u) => (
        <button
          key={u}
          type="button"
          className={`mr-2 underline ${Math.abs(factor - UNIT[u]) < 1e-6 ? "font-semibold" : ""}`}
          onClick={() => onFactor(UNIT[u])}
        >
          {mm(tall * UNIT[u], 1)} as {u}
        </button>
      ))}
    </p>
  );
}

/** A length against the layer that the printer starts from. */
function inLayers(length: number, layer: number): string {
  const share = length / layer;
  if (share < 0.01) return `less than a hundredth of a ${layer} mm layer`;
  return share < 1
    ? `${(100 * share).toFixed(0)} % of a ${layer} mm layer`
    : `${share.toFixed(1)} times a ${layer} mm layer`;
}

export function ThinnerCopy({
  thinned,
  factor,
  layer,
}: {
  thinned: Schemas["Thinned"];
  factor: number;
  layer?: number;
}) {
  const most = thinned.deviation * factor;
  return (
    <p className="-mt-1 mb-2 max-w-[640px] border-l-4 border-moss bg-paper px-3 py-1.5 text-[13px]">
      A thinner copy: {count(thinned.before)} triangles came in. Its surface lies at most{" "}
      {mm(most, 4)} from the file&apos;s at this size, {mm(thinned.usual * factor, 4)} for 95 of 100
      points{layer ? `: ${inLayers(most, layer)}` : ""}. The file is kept.
    </p>
  );
}
