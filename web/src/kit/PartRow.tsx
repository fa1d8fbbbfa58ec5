import { Link } from "react-router";
import { api, need } from "../api/client";
import { useDeed } from "../api/memory";
import { Pick } from "../ui/Pick";
import { partLine, type Part } from "./states";

const BY_HAND = [
  { value: "nothing", text: "by its prints" },
  { value: "dry-fitted", text: "dry-fitted" },
  { value: "painted", text: "painted" },
];

/** A part: its plan, how far it has come, how many are wanted, and what was done with it by hand. */
export function PartRow({ kit, part }: { kit: number; part: Part }) {
  const say = useDeed("kit", (body: { wanted: number; by_hand: Part["by_hand"] }) =>
    need(
      api.PUT("/api/kits/{number}/parts/{figure}", {
        params: { path: { number: kit, figure: part.figure_id } },
        body,
      }),
    ),
  );
  const { wanted, by_hand } = part;
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-thread py-2">
      <Link
        to={`/plan/${part.plan_id}/${part.next?.name ?? "log"}`}
        className="min-w-36 flex-1 font-display text-[16px] text-indigo hover:underline"
      >
        {part.name}
      </Link>
      <span className="w-24">{part.state}</span>
      <span className="w-28 text-[13.5px] text-faded">{partLine(part)}</span>
      <label className="text-[13px] text-faded">
        wanted{" "}
        <input
          key={wanted}
          className="field w-14"
          inputMode="numeric"
          defaultValue={wanted}
          aria-label={`How many of ${part.name} are wanted`}
          onBlur={(e) => {
            const n = Number(e.target.value);
            if (Number.isInteger(n) && n >= 1 && n <= 1000 && n !== wanted)
              say.mutate({ wanted: n, by_hand });
            else e.target.value = String(wanted);
          }}
        />
      </label>
      <Pick
        label={`What was done with ${part.name}`}
        value={by_hand}
        options={BY_HAND}
        onValue={(to) => say.mutate({ wanted, by_hand: to as Part["by_hand"] })}
      />
      <span className="text-[13px] text-faded">
        {part.next ? `next: ${part.next.title}` : "settled"}
      </span>
    </li>
  );
}
