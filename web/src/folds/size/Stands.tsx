import type { Intake, Place } from "../../api/client";
import { Pick } from "../../ui/Pick";
import { alike, faceOn } from "./stood";

interface Props {
  upright: Intake["upright"];
  up: Place;
  front: Place;
  pointing: boolean;
  onStand: (up: Place, front: Place) => void;
  onPointing: (on: boolean) => void;
}

/** Which way up the figure stands by itself: the guess, the other ways it might, the face that was pointed at, and where it looks. */
export function Stands({ upright, up, front, pointing, onStand, onPointing }: Props) {
  const { ups, sure } = upright;
  const known = ups.findIndex((u) => alike(u.up, up));
  const pointed = { value: "pointed", text: "on the face you pointed at" };
  return (
    <div className="flex flex-wrap items-end gap-1.5">
      <div>
        <span className="block text-[12.5px] text-faded">
          It stands {known === 0 && (sure ? "(a guess)" : "(an unsure guess: look at it)")}
        </span>
        <Pick
          label="It stands"
          className="w-60"
          value={known < 0 ? pointed.value : String(known)}
          options={[
            ...ups.map((u, i) => ({ value: String(i), text: u.why })),
            ...(known < 0 ? [pointed] : []),
          ]}
          onValue={(v) => {
            const taken = ups.at(Number(v));
            if (taken) onStand(taken.up, taken.front);
          }}
        />
      </div>
      <button
        type="button"
        className="quiet px-2 text-[12.5px]"
        aria-pressed={pointing}
        onClick={() => onPointing(!pointing)}
      >
        {pointing ? "click what it stands on" : "point at its foot"}
      </button>
      <button
        type="button"
        className="quiet px-2 text-[12.5px]"
        onClick={() => onStand(up, faceOn(up, front))}
      >
        turn its front
      </button>
    </div>
  );
}
