/** A pose in words: how far the file's own upright leans, and which way. */
export function poseName(down: number[]): string {
  const [x, y, z] = down;
  const lean = Math.round((Math.acos(Math.min(1, Math.max(-1, -z))) * 180) / Math.PI);
  if (lean < 4) return "Upright";
  if (lean > 176) return "Upside down";
  // What points down in the file's frame tells which way its top leans; figures face -y.
  const side =
    Math.abs(y) >= Math.abs(x)
      ? y > 0
        ? "back"
        : "forward"
      : x > 0
        ? "to its left"
        : "to its right";
  if (lean > 75 && lean < 105)
    return side === "back"
      ? "Lying on its back"
      : side === "forward"
        ? "Lying face down"
        : `Lying ${side.replace("to", "on")}`;
  return lean <= 75 ? `Leaning ${side} ${lean}°` : `Head down, ${side} ${180 - lean}°`;
}

/** What is told of a way, by process: the aim and its word. */
export const WEIGHTS: Record<string, [string, string][]> = {
  resin: [
    ["scar_area_mm2", "Clean surface"],
    ["minima", "Few mid-air starts"],
    ["peak_section_mm2", "Little pull"],
    ["cups", "Runs empty"],
    ["blur_mm2", "Shown looks up"],
    ["support_volume_mm3", "Few supports"],
    ["height_mm", "Short"],
    ["step_cost", "Smooth"],
  ],
  filament: [
    ["scar_area_mm2", "Clean surface"],
    ["lean", "Stands by itself"],
    ["contact_mm2", "Broad foot"],
    ["blur_mm2", "Shown looks up"],
    ["weak_mm", "Strong rods"],
    ["support_volume_mm3", "Few supports"],
    ["minima", "Few mid-air starts"],
    ["height_mm", "Short"],
    ["step_cost", "Smooth"],
  ],
};

/** Aims of which more is better. */
export const LARGE = new Set(["foot_mm2", "contact_mm2"]);

export const UNIT: Record<string, string> = {
  support_area_mm2: "mm²",
  scar_area_mm2: "mm²",
  support_volume_mm3: "mm³",
  peak_section_mm2: "mm²",
  height_mm: "mm",
  foot_mm2: "mm²",
  lean: "mm",
  weak_mm: "mm",
  step_cost: "",
  minima: "",
  cups: "",
  blur_mm2: "mm²",
  shown_mm2: "mm²",
  contact_mm2: "mm²",
  slender: "",
};
export const digits = (aim: string, v: number) =>
  aim === "minima" || aim === "cups"
    ? v.toFixed(0)
    : aim === "step_cost"
      ? v.toFixed(2)
      : v >= 100
        ? v.toFixed(0)
        : v.toFixed(1);
