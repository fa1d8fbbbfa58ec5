import type { Hazard } from "../../api/client";

const FEW = 3;
const isSpeck = (h: Hazard) => h.code === "island" && h.loss === "scar";

/** Hazards with specks of relief in one line, where there are many. */
export function withoutSpecks(hazards: Hazard[]): Hazard[] {
  const specks = hazards.filter(isSpeck);
  if (specks.length < FEW) return hazards;
  const [first] = specks;
  const marks = specks.reduce((sum, h) => sum + h.chance, 0);
  const message = `${specks.length} specks of relief start in mid air and join soon; ${
    marks < 1 ? "hardly one leaves" : `about ${marks.toFixed(0)} leave`
  } a mark, this one likeliest, at ${first.z_mm.toFixed(1)} mm.`;
  const one = {
    ...first,
    message,
    remedy: "Accept the marks, or have fewer of them at less risk.",
  };
  return hazards.flatMap((h) => (h === first ? [one] : isSpeck(h) ? [] : [h]));
}
