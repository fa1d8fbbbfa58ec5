import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { problemOf, type Schemas } from "../api/client";
import { useKit } from "../api/queries";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { Assembly } from "../turntable/Assembly";
import { Choice } from "../ui/Choice";
import { Joints } from "./Joints";
import { PartRow } from "./PartRow";
import { countLine, shownBy, type Show } from "./states";

type Kit = Schemas["Kit"];

/** A kit: its parts together where the file places them, and how far each has come. */
export function KitPage() {
  const { kit = "0" } = useParams();
  const held = useKit(Number(kit));
  const title = held.data?.name;
  useEffect(() => {
    if (title) document.title = `${title} · Tenugui`;
  }, [title]);
  if (held.error) return <Trouble problem={problemOf(held.error)} />;
  if (!held.data) return <p className="p-10 text-faded">Unpacking the kit</p>;
  return <Unpacked kit={held.data} />;
}

const SHOWN: { value: Show; text: string }[] = [
  { value: "all", text: "all parts" },
  { value: "made", text: "what is there" },
  { value: "missing", text: "what is missing" },
];

function Unpacked({ kit }: { kit: Kit }) {
  const { name, parts, placed } = kit;
  const [show, setShow] = useState<Show>("all");
  const shown = parts.filter((p) => shownBy(show, p));
  const standing = placed ? "assembled as the file places its parts" : "its parts side by side";
  const up = parts.find((p) => p.up)?.up ?? null;
  return (
    <>
      <Crumbs trail={[{ text: name }]} />
      <main className="unfolded min-h-0 flex-1 px-8 py-5 max-[1100px]:px-5">
        <Assembly
          shas={shown.map((p) => p.preview_sha).filter((s): s is string => !!s)}
          label={`${name}, ${standing}`}
          together={placed}
          up={up}
        />
        <div className="min-h-0 overflow-y-auto">
          <h1 className="text-[27px] leading-tight">{name}</h1>
          <p className="mb-2 text-faded">
            {parts.length} parts that belong together.{" "}
            {placed
              ? "They stand as the file places them."
              : "The file does not place them; they stand side by side."}{" "}
            The size of one is the size of all. {countLine(parts)}
          </p>
          <Choice label="Parts shown" value={show} options={SHOWN} onValue={setShow} small />
          <ul className="mt-2">
            {parts.map((p) => (
              <PartRow key={p.figure_id} kit={kit.id} part={p} />
            ))}
          </ul>
          {kit.cut_of != null && <Joints kit={kit} />}
        </div>
      </main>
    </>
  );
}
