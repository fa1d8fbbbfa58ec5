import { inCoins } from "../shell/coin";
import { Coin } from "../ui/Coin";
import type { Schemas } from "../api/client";
import type { Column } from "../ui/Board";

type Worth = Schemas["WorthDoc"];

const PARTS = [
  { of: (w: Worth) => w.hands, fill: "url(#w-hands)", name: "by hand" },
  { of: (w: Worth) => w.machine, fill: "url(#w-machine)", name: "machine" },
  { of: (w: Worth) => w.material, fill: "var(--clay)", name: "material" },
  { of: (w: Worth) => w.loss, fill: "var(--persimmon)", name: "risk" },
];
const WIDE = 86;

/** In words: what an alternative takes, and what that is worth. */
export const worthSaid = (w: Worth) =>
  `${w.hands_min.toFixed(0)} min by hand ${w.hands.toFixed(2)}, ` +
  `${w.machine_h.toFixed(1)} h of the machine ${w.machine.toFixed(2)}, ` +
  `material ${w.material.toFixed(2)}, risk ${(100 * w.risk).toFixed(0)} % ${w.loss.toFixed(2)}: ` +
  `${inCoins(w.total)}, give or take ${w.unsure.toFixed(2)}`;

/** What an alternative is worth, its four parts in their own weave, beside the dearest on the board. */
export function WorthBar({ worth, most }: { worth: Worth; most: number }) {
  const k = WIDE / Math.max(most, 1e-9);
  const ends = PARTS.map((_, i) => PARTS.slice(0, i + 1).reduce((sum, p) => sum + p.of(worth), 0));
  return (
    <span className="inline-block align-middle" title={worthSaid(worth)}>
      <svg width={WIDE} height="13" role="img" aria-label={worthSaid(worth)}>
        {PARTS.map(({ of, fill, name }, i) => (
          <rect
            key={name}
            x={(ends[i] - of(worth)) * k}
            width={of(worth) * k}
            height="13"
            fill={fill}
            stroke="var(--paper)"
            strokeWidth="0.6"
          />
        ))}
        <line
          x1={Math.max(0, (worth.total - worth.unsure) * k)}
          x2={Math.min(WIDE, (worth.total + worth.unsure) * k)}
          y1="6.5"
          y2="6.5"
          stroke="var(--ink)"
          strokeWidth="1"
        />
      </svg>
      <span className="block text-left text-[12px] leading-tight">
        {worth.total.toFixed(2)} <span className="text-faded">± {worth.unsure.toFixed(1)}</span>
      </span>
    </span>
  );
}

/** The column of a board that tells what its rows are worth. */
export function worthColumn<R>(
  of: (row: R) => Worth | null | undefined,
  rows: readonly R[],
): Column<R> {
  const most = Math.max(...rows.map((r) => of(r)?.total ?? 0));
  return {
    id: "worth",
    head: (
      <>
        worth
        <br />
        in <Coin />
      </>
    ),
    name: "worth",
    width: WIDE + 12,
    cell: (r) => {
      const worth = of(r);
      return worth ? <WorthBar worth={worth} most={most} /> : null;
    },
  };
}

/** The weaves of hands and machine, once on a page. */
export function WorthWeaves() {
  return (
    <svg width="0" height="0" aria-hidden className="absolute">
      <pattern
        id="w-hands"
        width="6"
        height="6"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <rect width="6" height="6" fill="var(--indigo)" opacity="0.75" />
        <rect width="2" height="6" fill="var(--paper)" opacity="0.35" />
      </pattern>
      <pattern id="w-machine" width="5" height="5" patternUnits="userSpaceOnUse">
        <rect width="5" height="5" fill="var(--water)" opacity="0.7" />
        <rect width="5" height="1.4" fill="var(--indigo)" opacity="0.5" />
      </pattern>
    </svg>
  );
}
