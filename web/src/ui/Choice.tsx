import { RadioGroup } from "radix-ui";
import type { ReactNode } from "react";
import { Tip } from "./Tip";

export interface Option<V extends string> {
  value: V;
  text: ReactNode;
  tip?: string;
}

interface Props<V extends string> {
  label: string;
  value: V;
  options: readonly Option<V>[];
  onValue: (value: V) => void;
  className?: string;
  small?: boolean;
}

/** One of a few, as a row of buttons. Arrow keys walk it. */
export function Choice<V extends string>({
  label,
  value,
  options,
  onValue,
  className = "",
  small,
}: Props<V>) {
  return (
    <RadioGroup.Root
      aria-label={label}
      value={value}
      onValueChange={(v) => onValue(v as V)}
      className={`flex flex-wrap gap-1.5 ${className}`}
    >
      {options.map((o) => (
        <Tip key={o.value} text={o.tip}>
          <RadioGroup.Item
            value={o.value}
            className={`quiet ${small ? "px-2.5 py-0.5 text-[13px]" : "px-2.5"}`}
          >
            {o.text}
          </RadioGroup.Item>
        </Tip>
      ))}
    </RadioGroup.Root>
  );
}
