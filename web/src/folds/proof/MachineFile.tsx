import { useState } from "react";
import { usePrintFile } from "../../api/boards";
import type { PlanState, PrintFile, Schemas } from "../../api/client";
import { count, hm } from "../../shell/format";
import { Waiting } from "../Waiting";
import { Blemishes } from "./Blemishes";
import { ofPlan, Playback } from "./Playback";
import { Slices } from "./Slices";

/** What a written file says of itself when it is read back. */
export function saidOf(file: PrintFile): string {
  const size = (file.size / 2 ** 20).toFixed(1);
  const thick = file.thickest_mm ? ` to ${file.thickest_mm}` : "";
  const layers = `${count(file.layers)} layers of ${file.layer_height_mm}${thick} mm`;
  const holds = `${layers}, ${file.volume_ml.toFixed(2)} ml, ${hm(file.time_s)}`;
  const same = file.differs
    ? file.kind === "layers"
      ? `${count(file.differs)} layers do not hold what they say.`
      : "Read back, it lays down something else than was planned: do not print it."
    : file.kind === "layers"
      ? "Every pixel was read back and is what the plan says."
      : "Every move was read back and lays down what was planned.";
  const thin =
    file.lost_mm3 >= 1 ? ` ${file.lost_mm3.toFixed(0)} mm³ are thinner than a line, and lost.` : "";
  return `${size} MB for ${file.printer}: ${holds}. ${same}${thin}`;
}

/** The file that the machine takes: written when it is asked for, and read back. */
export function MachineFile({ plan, strip }: { plan: PlanState; strip?: Schemas["StripDoc"] }) {
  const ready = !!strip;
  const [asked, setAsked] = useState(false);
  const file = usePrintFile(plan, asked && ready);
  const made = file.document;
  return (
    <section aria-label="The machine's file" className="mt-3 text-[13px]">
      {!asked && (
        <button
          type="button"
          className="quiet px-3 py-1"
          disabled={!ready}
          onClick={() => {
            setAsked(true);
          }}
        >
          Write the file for the machine
        </button>
      )}
      <Waiting of={file} what="Writing the machine's file, and reading it back" />
      {made && (
        <p className={made.differs ? "text-persimmon" : ""}>
          <a
            className="text-indigo underline"
            href={`/api/plans/${plan.id}/printfile/content`}
            download
          >
            {made.kind === "layers" ? "Layers, ZIP of PNG" : "Path, G-code"}
          </a>{" "}
          {saidOf(made)}
        </p>
      )}
      {made?.blemishes && <Blemishes of={made.blemishes} />}
      <Slices plan={plan} ready={ready} />
      {made && <Playback from={ofPlan(plan.id, made.sha)} file={made} strip={strip} />}
    </section>
  );
}
