import { useEffect } from "react";
import { Link, useParams } from "react-router";
import { problemOf } from "../api/client";
import { useKit } from "../api/queries";
import { count } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { Assembly } from "../turntable/Assembly";

/** A kit: its parts together where the file places them, and where each part's plan stands. */
export function KitPage() {
  const { kit = "0" } = useParams();
  const held = useKit(Number(kit));
  const title = held.data?.name;
  useEffect(() => {
    if (title) document.title = `${title} · Tenugui`;
  }, [title]);
  if (held.error) return <Trouble problem={problemOf(held.error)} />;
  if (!held.data) return <p className="p-10 text-faded">Unpacking the kit</p>;
  const { name, parts, placed } = held.data;
  const standing = placed ? "assembled as the file places its parts" : "its parts side by side";
  return (
    <>
      <Crumbs trail={[{ text: name }]} />
      <main className="unfolded min-h-0 flex-1 px-8 py-5 max-[1100px]:px-5">
        <Assembly
          shas={parts.map((p) => p.preview_sha).filter((s): s is string => !!s)}
          label={`${name}, ${standing}`}
          together={placed}
        />
        <div className="min-h-0 overflow-y-auto">
          <h1 className="text-[27px] leading-tight">{name}</h1>
          <p className="mb-3 text-faded">
            {parts.length} parts that belong together.{" "}
            {placed
              ? "They stand as the file places them."
              : "The file does not place them; they stand side by side."}{" "}
            The size of one is the size of all.
          </p>
          <ul>
            {parts.map((p) => (
              <li key={p.figure_id} className="border-b border-thread">
                <Link
                  to={`/plan/${p.plan_id}/${p.next?.name ?? "log"}`}
                  className="flex flex-wrap items-baseline gap-x-4 py-2 hover:bg-paper"
                >
                  <span className="font-display text-[16px] text-indigo">{p.name}</span>
                  <span className="text-faded">{count(p.triangles)} triangles</span>
                  <span className="ml-auto">{p.next ? `next: ${p.next.title}` : "settled"}</span>
                </Link>
              </li>
            ))}
          </ul>
        </div>
      </main>
    </>
  );
}
