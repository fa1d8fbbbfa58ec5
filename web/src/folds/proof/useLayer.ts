import { useSearchParams } from "react-router";

/** The layer and the move that are looked at, in the address. */
export function useLayer(layers: number) {
  const [search, setSearch] = useSearchParams();
  const number = (name: string) => {
    const given = Number(search.get(name));
    return Number.isInteger(given) && given > 0 ? given : null;
  };
  const layer = Math.min(number("played") ?? 1, layers);
  const put = (next: number, move: number | null = null) =>
    setSearch(
      (old) => {
        const s = new URLSearchParams(old);
        s.set("played", String(Math.max(1, Math.min(layers, next))));
        if (move == null) s.delete("move");
        else s.set("move", String(move));
        return s;
      },
      { replace: true },
    );
  return { layer, move: number("move"), put };
}
