import { coin } from "../../shell/coin";
import { Checkbox } from "radix-ui";
import { useId, useState } from "react";
import type { Schemas } from "../../api/client";
import { parse } from "../../shell/format";
import { Choice } from "../../ui/Choice";
import { Slide } from "../../ui/Slide";

/** What was asked over what holds by itself. */
export type Wish = Partial<Schemas["WishAsk"]>;
export const fully = (wish: Wish): Schemas["WishAsk"] => ({ clean: false, free: false, ...wish });
type Held = Schemas["WishDoc"];

const PRESETS = [
  { value: "evening", text: "An evening's hobby" },
  { value: "order", text: "Work on order" },
  { value: "army", text: "An army" },
  { value: "own", text: "own rates" },
] as const;
type Preset = (typeof PRESETS)[number]["value"];
const RATES = [
  ["minute", "A minute of mine", 2, 0.05],
  ["hour", "A machine hour", 5, 0.1],
  ["lost", "A print lost", 5, 0.25],
] as const;

interface Props {
  wish: Wish;
  held: Held;
  unmet: string[];
  onWish: (wish: Wish) => void;
}

/** What a minute, an hour and a lost print are worth to the person, and what must hold at any price. */
export function Rates({ wish, held, unmet, onWish }: Props) {
  const preset: Preset =
    wish.rates == null
      ? "evening"
      : typeof wish.rates === "string"
        ? (wish.rates as Preset)
        : "own";
  const own = typeof wish.rates === "object" ? wish.rates : null;
  return (
    <fieldset className="w-full border-t border-thread pt-1">
      <legend className="sr-only">At what rates, and what must hold</legend>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <span className="font-display text-[16px] text-indigo">At what rates</span>
        <Choice
          label="Rates"
          small
          value={preset}
          options={PRESETS}
          onValue={(v) => onWish({ ...wish, rates: v === "own" ? { ...held.rates } : v })}
        />
        <span className="text-[12px] text-faded">in {coin()}, as the material is priced</span>
      </div>
      <div className="grid grid-cols-3 gap-x-5 text-[12.5px] max-[700px]:grid-cols-1">
        {RATES.map(([name, text, most, step]) => {
          const value = own?.[name] ?? held.rates[name];
          return (
            <div key={name} className="flex items-center gap-1.5">
              <span className="whitespace-nowrap">{text}</span>
              <Slide
                label={text}
                value={value}
                min={0}
                max={most}
                step={step}
                said={value.toFixed(2)}
                onValue={(v) => onWish({ ...wish, rates: { ...held.rates, ...own, [name]: v } })}
              />
              <span className="w-10 text-right">
                {name === "lost" ? `× ${value.toFixed(2)}` : value.toFixed(2)}
              </span>
            </div>
          );
        })}
      </div>
      <div className="flex flex-wrap items-center gap-x-5">
        <Must
          text="No support on what is shown"
          on={!!wish.clean}
          unmet={unmet.includes("clean")}
          onOn={(clean) => onWish({ ...wish, clean })}
        />
        <Must
          text="No supports at all"
          on={!!wish.free}
          unmet={unmet.includes("free")}
          onOn={(free) => onWish({ ...wish, free })}
        />
        <Within
          hours={wish.hours ?? null}
          unmet={unmet.includes("hours")}
          onHours={(hours) => onWish({ ...wish, hours })}
        />
      </div>
    </fieldset>
  );
}

interface MustProps {
  text: string;
  on: boolean;
  unmet: boolean;
  onOn: (on: boolean) => void;
}

/** A wish that rules out what does not meet it. */
function Must({ text, on, unmet, onOn }: MustProps) {
  const id = useId();
  return (
    <div className="flex items-center gap-2 py-0.5 text-[13px]">
      <Checkbox.Root
        id={id}
        checked={on}
        onCheckedChange={(v) => onOn(v === true)}
        className="flex h-[17px] w-[17px] items-center justify-center border border-thread bg-paper data-[state=checked]:bg-indigo data-[state=checked]:text-onindigo"
      >
        <Checkbox.Indicator className="text-[12px] leading-none">✓</Checkbox.Indicator>
      </Checkbox.Root>
      <label htmlFor={id}>{text}</label>
      {unmet && <span className="text-persimmon">no way does; ranked without it</span>}
    </div>
  );
}

function Within({
  hours,
  unmet,
  onHours,
}: {
  hours: number | null;
  unmet: boolean;
  onHours: (h: number | null) => void;
}) {
  const [typed, setTyped] = useState(hours == null ? "" : String(hours));
  return (
    <label className="flex items-center gap-2 py-0.5 text-[13px]">
      Printed within
      <input
        className="field w-14 py-0"
        inputMode="decimal"
        value={typed}
        placeholder="any"
        aria-label="Printed within, hours"
        onChange={(e) => {
          setTyped(e.target.value);
          const v = parse(e.target.value);
          onHours(v > 0 && v <= 1000 ? v : null);
        }}
      />
      h {unmet && <span className="text-persimmon">no way is; ranked without it</span>}
    </label>
  );
}
