import type { Place } from "../../api/client";
import type { Asked } from "./useByHand";

/** Places in an address: x,y,z;x,y,z in the figure's frame at its size. */
export function placesOf(text: string | null): Place[] {
  return (text ?? "").split(";").flatMap((part): Place[] => {
    const at = part.split(",").map(Number);
    return part && at.length === 3 && at.every(Number.isFinite) ? [[at[0], at[1], at[2]]] : [];
  });
}

interface Taken {
  risk?: number | null;
  style?: string | null;
}

/** The set that was taken with more tips at the places that an address asks for; null where it asks for none. */
export function withMore(
  own: Asked | null,
  taken: Taken | null | undefined,
  text: string | null,
): Asked | null {
  const put = placesOf(text);
  if (!put.length) return null;
  return {
    risk: own?.risk ?? taken?.risk ?? 0.05,
    style: own?.style ?? ((taken?.style ?? "pillars") as Asked["style"]),
    edits: [...(own?.edits ?? []), ...put.map((at) => ({ op: "add" as const, at }))],
  };
}
