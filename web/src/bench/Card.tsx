import { useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, need, refusalOf, type FigureRow, type Numbers } from "../api/client";
import { clock, count, percent } from "../shell/format";
import { useView } from "../shell/view";
import { Tip } from "../ui/Tip";

function told(numbers: Numbers, filament: boolean): string {
  const stuff = filament ? `${numbers.mass_g.toFixed(0)} g` : `${numbers.volume_ml.toFixed(0)} ml`;
  return `${clock(numbers.time_s)}, ${stuff}, ${numbers.unheld ? "not held yet" : `risk ${percent(numbers.risk)}`}`;
}

/** A figure on the bench: what it is, and what it needs next. */
export function Card({ figure: f }: { figure: FigureRow }) {
  const { say, fail } = useView();
  const client = useQueryClient();
  const refresh = () => void client.invalidateQueries({ queryKey: ["figures"] });
  const path = { params: { path: { number: f.id } } };
  const back = () => need(api.POST("/api/figures/{number}/back", path)).then(refresh, fail);
  const away = () =>
    need(api.DELETE("/api/figures/{number}", path)).then(() => {
      refresh();
      say({
        text: `${f.name} is put away.`,
        action: { label: "Put it back", run: () => void back() },
      });
    }, fail);
  return (
    <li className="relative border border-thread bg-paper">
      <Link to={`/plan/${f.plan_id}/${f.next?.name ?? "log"}`} className="flex h-[132px]">
        <span className="flex w-[104px] shrink-0 items-center justify-center bg-folded">
          {f.picture ? (
            <img
              src={`/api/blobs/${f.picture}`}
              alt=""
              className="max-h-[122px] max-w-[96px] object-contain"
            />
          ) : (
            <span className="px-2 text-center text-[12px] text-faded">
              {f.problem ? "cannot be shown" : "being examined"}
            </span>
          )}
        </span>
        <span className="flex min-w-0 flex-1 flex-col px-3 py-2">
          <span className="truncate pr-3 font-display text-[16px] leading-tight text-indigo">
            {f.name}
          </span>
          <span className="truncate text-[12.5px] text-faded">
            {f.kit_name ? `part of ${f.kit_name}` : `${count(f.triangles)} triangles`}
            {f.plans > 1 && `, ${f.plans} plans`}
          </span>
          <Middle figure={f} />
          <span
            className={`mt-auto truncate text-[13.5px] ${f.stale ? "text-persimmon" : "text-indigo"}`}
          >
            {f.stale ? "stale: " : ""}
            {f.next?.question} <span className="text-[12px] text-faded">{f.next?.title}</span>
          </span>
        </span>
      </Link>
      <Tip text="Put away">
        <button
          type="button"
          aria-label={`Put ${f.name} away`}
          className="absolute top-0.5 right-1 px-1.5 text-[16px] leading-none text-faded hover:text-ink"
          onClick={() => void away()}
        >
          ×
        </button>
      </Tip>
    </li>
  );
}

function Middle({ figure: f }: { figure: FigureRow }) {
  if (f.problem)
    return (
      <span className="mt-1 line-clamp-2 text-[13px] leading-snug text-persimmon">
        {refusalOf(f.problem).message}
      </span>
    );
  if (f.doing) return <span className="mt-1.5 truncate text-[13px] text-faded">{f.doing}</span>;
  if (!f.numbers) return <span className="mt-1.5 text-[13px] text-faded">not planned yet</span>;
  return (
    <span className="mt-1.5 text-[13px] leading-snug">
      {told(f.numbers, f.process === "filament")}
    </span>
  );
}
