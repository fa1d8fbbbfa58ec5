import { useSearchParams } from "react-router";
import type { Down } from "../../api/client";

/** Where the fold's view is kept: in the address. */
export function usePoseAddress() {
  const [search, setSearch] = useSearchParams();
  const put = (given: Record<string, string | null>) =>
    setSearch(
      (old) => {
        const s = new URLSearchParams(old);
        for (const [name, value] of Object.entries(given))
          if (value == null) s.delete(name);
          else s.set(name, value);
        return s;
      },
      { replace: true },
    );
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
