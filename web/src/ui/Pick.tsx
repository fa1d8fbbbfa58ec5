import { Select } from "radix-ui";
import type { Option } from "./Choice";

interface Props {
  label: string;
  value: string;
  options: readonly Option<string>[];
  onValue: (value: string) => void;
  className?: string;
}

/** One of many, from a list that opens. */
export function Pick({ label, value, options, onValue, className = "" }: Props) {
  return (
    <Select.Root value={value} onValueChange={onValue}>
      <Select.Trigger
        aria-label={label}
        className={`field inline-flex items-center justify-between gap-2 text-left ${className}`}
      >
        <Select.Value />
        <Select.Icon className="text-faded">▾</Select.Icon>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={3}
          className="z-50 border border-thread bg-paper"
        >
          <Select.Viewport className="max-h-[320px] p-1">
            {options.map((o) => (
              <Select.Item
                key={o.value}
                value={o.value}
                className="cursor-pointer px-3 py-1.5 outline-none data-[highlighted]:bg-folded data-[state=checked]:font-medium"
              >
                <Select.ItemText>{o.text}</Select.ItemText>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}
