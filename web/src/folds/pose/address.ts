import type { Down } from "../../api/client";
import { useAddress } from "../../shell/address";

/** Where the fold's view is kept: in the address. */
export function usePoseAddress() {
  const { search, put } = useAddress();
  const beside = search.get("beside");
  const held = search.get("hold")?.split(",").map(Number);
  const hold: Down | null =
    held?.length === 3 && held.every(Number.isFinite) && held.some((v) => v !== 0)
      ? [held[0], held[1], held[2]]
      : null;
  return {
    hold,
    map: search.get("view") === "map",
    beside: beside == null ? null : Number(beside),
    put,
  };
}
