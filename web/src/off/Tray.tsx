import { useFigures } from "../api/queries";

/** Plans beside the first on one tray, as an address holds them. */
export const trayOf = (said: string | null): number[] =>
  (said ?? "")
    .split("-")
    .map(Number)
    .filter((n) => Number.isInteger(n) && n > 0)
    .slice(0, 40);

interface Props {
  plan: number;
  /** Resin and filament do not go on one tray. */
  process?: string | null;
  tray: readonly number[];
  onTray: (others: number[]) => void;
}

/** Which figures go through the steps together: washed, dried and cured at once, cut one after the other. */
export function Tray({ plan, process, tray, onTray }: Props) {
  const figures = useFigures(false).data ?? [];
  const name = (n: number) => figures.find((f) => f.plan_id === n)?.name ?? `plan ${n}`;
  const more = figures.flatMap((f) =>
    f.next?.name === "log" && f.plan_id && f.plan_id !== plan && !tray.includes(f.plan_id)
      ? f.process === process
        ? [{ plan: f.plan_id, name: f.name }]
        : []
      : [],
  );
  if (!tray.length && !more.length) return null;
  return (
    <p className="mt-2 flex flex-wrap items-center gap-3 text-[14px]">
      <span className="text-faded">On one tray with</span>
      {tray.map((n) => (
        <button
          key={n}
          type="button"
          className="quiet px-2 py-0.5 text-[13.5px]"
          aria-label={`Take ${name(n)} off the tray`}
          onClick={() => onTray(tray.filter((t) => t !== n))}
        >
          {name(n)} ✕
        </button>
      ))}
      {more.length > 0 && (
        <select
          className="field"
          aria-label="Add a figure to the tray"
          value=""
          onChange={(e) => onTray([...tray, Number(e.target.value)])}
        >
          <option value="">another figure</option>
          {more.map((f) => (
            <option key={f.plan} value={f.plan}>
              {f.name}
            </option>
          ))}
        </select>
      )}
    </p>
  );
}
