import { useCallback } from "react";
import { useNavigate, useSearchParams } from "react-router";

export type Said = Record<string, string | number | null>;

/**
 * What a view keeps in its address, and how it is changed: null takes a word away.
 * A change starts from what the address says now. What the page last drew may be older: two changes within one drawing,
 * or one that waited for a hand to rest, would take each other back.
 */
export function useAddress() {
  const [search] = useSearchParams();
  const navigate = useNavigate();
  const put = useCallback(
    (said: Said) => {
      const now = new URLSearchParams(window.location.search);
      for (const [name, value] of Object.entries(said))
        if (value == null) now.delete(name);
        else now.set(name, String(value));
      void navigate({ search: now.toString() }, { replace: true });
    },
    [navigate],
  );
  const number = (name: string) => {
    const held = search.get(name);
    return held != null && held !== "" && Number.isFinite(Number(held)) ? Number(held) : null;
  };
  return { search, put, number };
}
