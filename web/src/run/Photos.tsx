import { useRef, useState } from "react";
import { api, need, type Schemas } from "../api/client";
import { sendBody, useDeed, type RunWhole } from "../api/memory";
import { Choice } from "../ui/Choice";
import { Pick } from "../ui/Pick";

const STAGES = [
  { value: "bare", text: "as it came off" },
  { value: "primed", text: "primed" },
  { value: "painted", text: "painted" },
] as const;
type Stage = (typeof STAGES)[number]["value"];
export const SIDES: { value: Schemas["PhotoRow"]["side"]; text: string }[] = [
  { value: "not said", text: "side not said" },
  { value: "front", text: "from the front" },
  { value: "left", text: "from its left" },
  { value: "back", text: "from behind" },
  { value: "right", text: "from its right" },
  { value: "top", text: "from above" },
  { value: "under", text: "its underside" },
];
type Side = (typeof SIDES)[number]["value"];

/** Photos of a print by stage; two of them chosen stand beside each other. */
export function Photos({ held }: { held: RunWhole }) {
  const { run, photos } = held;
  const [stage, setStage] = useState<Stage>("bare");
  const [side, setSide] = useState<Side>("not said");
  const [chosen, setChosen] = useState<number[]>([]);
  const input = useRef<HTMLInputElement>(null);
  const add = useDeed(
    "run",
    async (files: File[]) => {
      for (const file of files)
        await sendBody(`/api/runs/${run.id}/photos?stage=${stage}&side=${side}`, file);
    },
    "Kept, without what the camera writes besides: no place, no owner.",
  );
  const remove = useDeed("run", (photo: number) =>
    need(
      api.DELETE("/api/runs/{number}/photos/{photo}", {
        params: { path: { number: run.id, photo } },
      }),
    ),
  );
  const show = useDeed("run", (photo: { id: number; stage: Stage; side: Side }) =>
    need(
      api.PUT("/api/runs/{number}/photos/{photo}", {
        params: { path: { number: run.id, photo: photo.id } },
        body: { stage: photo.stage, side: photo.side },
      }),
    ),
  );
  const src = (photo: number, small = false) =>
    `/api/runs/${run.id}/photos/${photo}${small ? "?small=true" : ""}`;
  const toggle = (photo: number) =>
    setChosen((old) =>
      old.includes(photo) ? old.filter((p) => p !== photo) : [...old, photo].slice(-2),
    );
  return (
    <section aria-label="Photos" className="mb-4">
      <h2 className="text-[18px]">Photos</h2>
      <ul className="mt-1 flex flex-wrap gap-2">
        {photos.map((photo, i) => (
          <li key={photo.id} className="text-[12.5px] text-faded">
            <button
              type="button"
              aria-pressed={chosen.includes(photo.id)}
              className="block border border-thread aria-pressed:border-2 aria-pressed:border-indigo"
              onClick={() => toggle(photo.id)}
            >
              <img
                src={src(photo.id, true)}
                alt={`${i + 1}, ${photo.stage}, ${photo.side}`}
                className="h-24 w-24 object-cover"
              />
            </button>
            <span className="flex justify-between">
              {photo.stage}
              <button
                type="button"
                aria-label={`Take photo ${i + 1} away`}
                onClick={() => {
                  setChosen([]);
                  remove.mutate(photo.id);
                }}
              >
                ×
              </button>
            </span>
          </li>
        ))}
      </ul>
      {chosen.length > 0 && (
        <div className="mt-2 grid grid-cols-2 gap-2">
          {photos
            .filter((photo) => chosen.includes(photo.id))
            .map((photo) => (
              <div key={photo.id}>
                <img src={src(photo.id)} alt={`whole, ${photo.id}`} className="w-full" />
                <Pick
                  label="From which side it was taken"
                  value={photo.side}
                  options={SIDES}
                  onValue={(to) =>
                    show.mutate({ id: photo.id, stage: photo.stage, side: to as Side })
                  }
                />
              </div>
            ))}
        </div>
      )}
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <Choice label="Stage" value={stage} options={STAGES} onValue={setStage} small />
        <Pick
          label="From which side"
          value={side}
          options={SIDES}
          onValue={(to) => setSide(to as Side)}
        />
        <input
          ref={input}
          type="file"
          accept="image/jpeg,image/png,image/webp"
          multiple
          className="hidden"
          aria-label="Photos to keep"
          onChange={(e) => {
            const files = [...(e.target.files ?? [])];
            e.target.value = "";
            if (files.length) add.mutate(files);
          }}
        />
        <button
          type="button"
          className="quiet"
          disabled={add.isPending}
          onClick={() => input.current?.click()}
        >
          {add.isPending ? "Keeping them" : "Add photos"}
        </button>
        {photos.length > 1 && (
          <span className="text-[12.5px] text-faded">Choose two to see them side by side.</span>
        )}
      </div>
    </section>
  );
}
