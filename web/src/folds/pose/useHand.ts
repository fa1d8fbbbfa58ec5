import { useEffect, useMemo, useRef, useState } from "react";
import { Quaternion } from "three";
import { api, need, type Down, type PlanState, type Ranked, type Weighed } from "../../api/client";
import { useView } from "../../shell/view";
import type { Turn } from "../../stage/scene";
import { fully, type Wish } from "./Rates";
import { downOf, turnTo } from "./globe";

const SETTLE_MS = 60;

/**
 * A figure turned by hand, or held as the address says: its own turn, and what the server says of
 * it. One question is in flight at a time, and the newest is the next.
 */
export function useHand(plan: PlanState, wish: Wish, ready: boolean, first: Down | null) {
  const { fail } = useView();
  const [turn, setTurn] = useState<Quaternion | null>(() => first && turnTo(first));
  const [said, setSaid] = useState<{ of: string; told: Weighed } | null>(null);
  const asking = useRef(false);
  const waiting = useRef<(() => void) | null>(null);
  const down: Down | null = turn ? downOf(turn) : null;
  const key = down && ready ? JSON.stringify([down.map((v) => v.toFixed(4)), wish]) : "";
  useEffect(() => {
    if (!key) return;
    const [asked, wished] = JSON.parse(key) as [string[], Wish];
    const [x, y, z] = asked.map(Number);
    const ask = async () => {
      asking.current = true;
      try {
        const told = await need(
          api.POST("/api/plans/{number}/pose/weigh", {
            params: { path: { number: plan.id } },
            body: { down: [x, y, z], wish: fully(wished) },
          }),
        );
        setSaid({ of: key, told });
      } catch (thrown) {
        fail(thrown);
      }
      asking.current = false;
      const next = waiting.current;
      waiting.current = null;
      next?.();
    };
    if (asking.current) waiting.current = () => void ask();
    else void ask();
  }, [key, plan.id, fail]);
  const onTurn: Turn = useMemo(
    () => (axis, angle) =>
      setTurn((t) => t && new Quaternion().setFromAxisAngle(axis, angle).multiply(t)),
    [],
  );
  return {
    turn,
    down,
    said: key && said ? said.told : null,
    onTurn,
    take: (d: Down) => setTurn(turnTo(d)),
    letGo: () => setTurn(null),
  };
}

/** The search ranked anew for another wish, at once and without reading a layer. */
export function useRanked(plan: PlanState, wish: Wish, moved: boolean): Ranked | null {
  const { fail } = useView();
  const [held, setHeld] = useState<{ of: string; ranked: Ranked } | null>(null);
  const key = moved ? JSON.stringify(wish) : "";
  useEffect(() => {
    if (!key) return;
    let here = true;
    const soon = setTimeout(() => {
      need(
        api.POST("/api/plans/{number}/pose/rank", {
          params: { path: { number: plan.id } },
          body: { fold: "pose", wish: fully(JSON.parse(key) as Wish), pinned: [] },
        }),
      ).then((ranked) => here && setHeld({ of: key, ranked }), fail);
    }, SETTLE_MS);
    return () => {
      here = false;
      clearTimeout(soon);
    };
  }, [key, plan.id, fail]);
  return key && held ? held.ranked : null;
}
