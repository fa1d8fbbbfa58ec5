import type { ReactNode } from "react";
import { Slide } from "../../ui/Slide";

interface Props {
  label: string;
  layer: number;
  layers: number;
  onLayer: (layer: number) => void;
  children: ReactNode;
}

/** A layer by its thumb, or one up and one down; beside it what is said of it. */
export function LayerSlide({ label, layer, layers, onLayer, children }: Props) {
  const step = (name: string, sign: string, by: number) => (
    <button
      type="button"
      className="quiet px-2"
      aria-label={`${name}: ${label.toLowerCase()}`}
      onClick={() => onLayer(layer + by)}
    >
      {sign}
    </button>
  );
  return (
    <div className="flex items-center gap-2 text-[13px]">
      {step("One down", "−", -1)}
      <Slide
        label={label}
        value={layer}
        min={1}
        max={layers}
        step={1}
        said={`layer ${layer} of ${layers}`}
        onValue={onLayer}
      />
      {step("One up", "+", 1)}
      <span className="w-52 text-right tabular-nums">{children}</span>
    </div>
  );
}
