import { useState } from "react";
import { api, need, type Place } from "../api/client";
import { useCues, useDeed, type Pin, type RunWhole } from "../api/memory";
import { count, parse } from "../shell/format";
import { Pick } from "../ui/Pick";

/** Where something was seen: at a layer, at a place of the figure. */
export interface Where {
  layer: number | null;
  place: Place | null;
}

interface Props {
  held: RunWhole;
  where: Where;
  onWhere: (where: Where) => void;
  shown: Pin | null;
  onShown: (pin: Pin | null) => void;
}

/** What was seen on the print, each pinned to where it was. */
export function Pins({ held, where, onWhere, shown, onShown }: Props) {
  const { run, pins } = held;
  const cues = useCues(run.process);
  const [cue, setCue] = useState("");
  const [note, setNote] = useState("");
  const path = { number: run.id };
  const add = useDeed(
    "run",
    () =>
      need(
        api.POST("/api/runs/{number}/pins", {
          params: { path },
          body: { cue, layer: where.layer, place: where.place, note },
        }),
      ),
    "Pinned. Below it stands what it may come from.",
  );
  const remove = useDeed("run", (pin: number) =>
    need(api.DELETE("/api/runs/{number}/pins/{pin}", { params: { path: { ...path, pin } } })),
  );
  const layer = where.layer == null ? "" : String(where.layer);
  return (
    <section aria-label="What was seen" className="mb-4">
      <h2 className="text-[18px]">What was seen on it</h2>
      {pins.length === 0 && (
        <p className="text-[13.5px] text-faded">
          Nothing is pinned. Click the figure where you saw something, say what, and you get what it
          may come from, with the cheapest test.
        </p>
      )}
      <ul>
        {pins.map((pin) => (
          <li
            key={pin.id}
            className={`flex items-baseline gap-3 border-b border-thread py-1 ${shown?.id === pin.id ? "bg-paper" : ""}`}
          >
            <button
              type="button"
              className="min-w-0 flex-1 text-left"
              aria-pressed={shown?.id === pin.id}
              onClick={() => onShown(pin)}
            >
              {pin.words}
              <span className="ml-3 text-[13px] text-faded">
                {pin.layer == null ? "" : `layer ${count(pin.layer)}`} {pin.note}
              </span>
            </button>
            <button
              type="button"
              className="quiet px-2 text-[12.5px]"
              onClick={() => remove.mutate(pin.id, { onSuccess: () => onShown(null) })}
            >
              take away
            </button>
          </li>
        ))}
      </ul>
      <form
        className="mt-2 flex flex-wrap items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate(undefined, {
            onSuccess: () => {
              setNote("");
              onShown(null);
              onWhere({ layer: null, place: null });
            },
          });
        }}
      >
        <div>
          <span className="block text-[12.5px] text-faded">seen</span>
          <Pick
            label="What was seen"
            value={cue}
            options={cues.map((c) => ({ value: c.code, text: c.words }))}
            onValue={setCue}
            className="min-w-52"
          />
        </div>
        <label>
          <span className="block text-[12.5px] text-faded">at layer</span>
          <input
            className="field w-20"
            inputMode="numeric"
            value={layer}
            onChange={(e) => {
              const typed = parse(e.target.value);
              const at = e.target.value.trim() && Number.isFinite(typed) && typed >= 0;
              onWhere({ ...where, layer: at ? Math.floor(typed) : null });
            }}
          />
        </label>
        <label className="min-w-32 flex-1">
          <span className="block text-[12.5px] text-faded">note</span>
          <input
            className="field w-full"
            maxLength={500}
            value={note}
            onChange={(e) => setNote(e.target.value)}
          />
        </label>
        <button className="quiet" disabled={!cue || add.isPending}>
          {where.place ? "Pin it there" : "Pin it"}
        </button>
      </form>
    </section>
  );
}
