import { useAddress } from "../../shell/address";

/** The layer and the move that are looked at, in the address. */
export function useLayer(layers: number) {
  const { number, put } = useAddress();
  const from1 = (name: string) => {
    const given = number(name);
    return given != null && Number.isInteger(given) && given > 0 ? given : null;
  };
  return {
    layer: Math.min(from1("played") ?? 1, layers),
    move: from1("move"),
    put: (next: number, move: number | null = null) =>
      put({ played: Math.max(1, Math.min(layers, next)), move }),
  };
}
