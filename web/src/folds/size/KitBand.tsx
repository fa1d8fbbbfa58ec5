import { Link } from "react-router";
import { useKit } from "../../api/queries";

/** The parts of a kit: one factor for all, a plan for each. */
export function KitBand({ kit, figure }: { kit: number; figure: number }) {
  const held = useKit(kit).data;
  if (!held) return null;
  return (
    <nav
      aria-label={`Parts of ${held.name}`}
      className="mb-2 flex flex-wrap items-center gap-1.5 border-y border-thread py-1.5 text-[13px]"
    >
      <span className="mr-1 text-faded">
        <Link className="text-indigo underline" to={`/kit/${kit}`}>
          {held.name}
        </Link>
        , {held.parts.length} parts, one factor for all:
      </span>
      {held.parts.map((p) => (
        <Link
          key={p.figure_id}
          aria-current={p.figure_id === figure ? "page" : undefined}
          className={`quiet px-2 py-0.5 ${p.figure_id === figure ? "border-indigo font-medium" : ""}`}
          to={`/plan/${p.plan_id}/size`}
        >
          {p.name}
        </Link>
      ))}
    </nav>
  );
}
