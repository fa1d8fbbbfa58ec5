import { Tooltip } from "radix-ui";
import type { ReactElement } from "react";

/** A short word about what lies under the pointer or the focus; nothing where there is no word. */
export function Tip({ text, children }: { text?: string | null; children: ReactElement }) {
  if (!text) return children;
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={5}
          className="z-50 max-w-[300px] border border-thread bg-paper px-2.5 py-1.5 text-[12.5px] text-ink"
        >
          {text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}
