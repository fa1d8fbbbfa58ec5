import type { Intake, Place } from "../../api/client";
import { Pick } from "../../ui/Pick";
import { Vector3 } from "three";
import { alike, faceOn, turnedOn } from "./stood";

const TILT = Math.PI / 12;
const TILTS: { text: string; axis: [number, number, number] }[] = [
  { text: "back", axis: [-1, 0, 0] },
  { text: "forward", axis: [1, 0, 0] },
  { text: "left", axis: [0, -1, 0] },
  { text: "right", axis: [0, 1, 0] },
  { text: "around", axis: [0, 0, 1] },
];

interface Props {
  upright: Intake["upright"];
  up: Place;
  front: Place;
  pointing: boolean;
  turning: boolean;
  onStand: (up: Place, front: Place) => void;
  onPointing: (on: boolean) => void;
  onTurning: (on: boolean) => void;
}

/**
 * Which way up the figure stands by itself: the guess, the other ways it might, the face that was
 * pointed at, how it was turned, and where it looks.
 */
export function Stands({
  upright,
  up,
  front,
  pointing,
  turning,
  onStand,
  onPointing,
  onTurning,
}: Props) {
  const { ups, sure } = upright;
  const known = ups.findIndex((u) => alike(u.up, up));
  const pointed = { value: "pointed", text: "as you set it" };
  return (
    <div className="flex flex-wrap items-end gap-1.5">
      <div className="w-full max-w-[400px]">
        <span className="block text-[12.5px] text-faded">
          It stands {known === 0 && (sure ? "(a guess)" : "(an unsure guess: look at it)")}
        </span>
        <Pick
          label="It stands"
          className="w-full"
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
      <button
        type="button"
        className="quiet px-2 text-[12.5px]"
        aria-pressed={turning}
        onClick={() => onTurning(!turning)}
      >
        {turning ? "it stands now" : "turn it by hand"}
      </button>
      {turning && (
        <div
          role="group"
          aria-label="Tilt by 15 degrees"
          className="flex w-full items-center gap-1.5 text-[12.5px] text-faded"
        >
          <span>Drag the figure, or tilt it 15°</span>
          {TILTS.map(({ text, axis }) => (
            <button
              key={text}
              type="button"
              className="quiet px-2 text-[12.5px]"
              onClick={() => {
                const set = turnedOn(up, front, new Vector3(...axis), TILT);
                onStand(set.up, set.front);
              }}
            >
              {text}
            </button>
          ))}
        </div>
      )}
    </div>
  );
}
