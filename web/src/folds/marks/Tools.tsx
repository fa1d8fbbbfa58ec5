import { Checkbox, RadioGroup } from "radix-ui";
import type { ReactNode } from "react";
import { count } from "../../shell/format";
import type { Kind } from "../../patterns/kinds";
import { Choice } from "../../ui/Choice";
import { Slide } from "../../ui/Slide";
import { KIND, Weave } from "./kinds";
import type { Painted } from "./useStrokes";

export const TOOLS = [
  ["brush", "Brush", "a"],
  ["fill", "To the creases", "c"],
  ["flat", "Flat face", "e"],
] as const;
export type Tool = (typeof TOOLS)[number][0];

export interface Handling {
  kind: Kind;
  tool: Tool;
  /** Across, printed mm. */
  wide: number;
  /** Degrees of an edge at which the hand stops; 180 for never. */
  crease: number;
  mirror: boolean;
}

export const WIDE = { least: 0.5, most: 40 };
const NEVER = 180;

interface KindsProps {
  kind: Kind;
  onKind: (kind: Kind) => void;
  painted: Painted | null;
  factor: number;
}

/** The kinds of marks, each with the surface it covers. */
export function Kinds({ kind, onKind, painted, factor }: KindsProps) {
  return (
    <RadioGroup.Root aria-label="Mark" value={kind} onValueChange={(k) => onKind(k as Kind)}>
      {KIND.map((k) => (
        <RadioGroup.Item
          key={k.name}
          value={k.name}
          className="flex w-full items-center gap-2.5 border-b border-thread/60 px-2 py-1 text-left hover:bg-paper/60 data-[state=checked]:bg-paper data-[state=checked]:shadow-[inset_3px_0_0_var(--indigo)]"
        >
          <Weave kind={k.name} />
          <span className="min-w-0 flex-1">
            <span className="block leading-tight font-medium">{k.title}</span>
            <span className="block text-[12px] leading-tight text-faded">{k.text}</span>
          </span>
          {painted && k.name !== "none" && painted.mm2(k.name, factor) > 0 && (
            <span className="shrink-0 text-right text-[12.5px]">
              {count(Math.round(painted.mm2(k.name, factor)))} mm²
              <span className="block text-faded">
                {((100 * painted.mm2(k.name, factor)) / painted.whole(factor)).toFixed(0)} %
              </span>
            </span>
          )}
          <kbd className="shrink-0">{k.key.toUpperCase()}</kbd>
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  );
}

interface HandProps {
  hand: Handling;
  onHand: (hand: Handling) => void;
  /** Whether the figure is its own mirror; null while nobody knows. */
  mirrors: boolean | null;
}

/** What the hand paints with. */
export function HandTools({ hand, onHand, mirrors }: HandProps) {
  const mirrored = {
    true: "On both sides: the figure is its own mirror",
    false: "No mirror: its two sides differ",
  };
  return (
    <>
      <Choice
        label="Tool"
        value={hand.tool}
        options={TOOLS.map(([value, text, key]) => ({
          value,
          text,
          tip: `key ${key.toUpperCase()}`,
        }))}
        onValue={(tool) => onHand({ ...hand, tool })}
      />
      {hand.tool === "brush" && (
        <Line title="Brush" said={`${hand.wide.toFixed(1)} mm`}>
          <Slide
            label="Brush"
            value={hand.wide}
            min={WIDE.least}
            max={20}
            step={0.1}
            said={`${hand.wide.toFixed(1)} mm`}
            onValue={(wide) => onHand({ ...hand, wide })}
          />
        </Line>
      )}
      {hand.tool !== "flat" && (
        <Line title="Stops at" said={hand.crease >= NEVER ? "nothing" : `${hand.crease}° edge`}>
          <Slide
            label="Stops at"
            value={hand.crease}
            min={5}
            max={NEVER}
            step={5}
            said={hand.crease >= NEVER ? "nothing" : `an edge of ${hand.crease} degrees`}
            onValue={(crease) => onHand({ ...hand, crease })}
          />
        </Line>
      )}
      <div className={`flex items-center gap-2 text-[13px] ${mirrors ? "" : "text-faded"}`}>
        <Checkbox.Root
          id="mirror"
          checked={hand.mirror && !!mirrors}
          disabled={!mirrors}
          onCheckedChange={(on) => onHand({ ...hand, mirror: on === true })}
          className="flex h-[17px] w-[17px] items-center justify-center border border-thread bg-paper data-[state=checked]:bg-indigo data-[state=checked]:text-onindigo"
        >
          <Checkbox.Indicator className="text-[12px] leading-none">✓</Checkbox.Indicator>
        </Checkbox.Root>
        <label htmlFor="mirror">
          {mirrors == null ? "Looking for a mirror" : mirrored[`${mirrors}`]}
        </label>
      </div>
    </>
  );
}

function Line({ title, said, children }: { title: string; said: string; children: ReactNode }) {
  return (
    <div className="flex items-center gap-2 text-[13px]">
      <span className="w-16 text-faded">{title}</span>
      {children}
      <span className="w-16 text-right">{said}</span>
    </div>
  );
}
