import { DropdownMenu } from "radix-ui";
import { useNavigate } from "react-router";
import { useLeave, useSession } from "./api";

const ITEM = "cursor-pointer px-3 py-1.5 outline-none data-[highlighted]:bg-folded";

/** One's own name in the header, on a bench that asks for it: people, and ways out. */
export function Mine() {
  const me = useSession().data?.me;
  const leave = useLeave();
  const go = useNavigate();
  if (!me) return null;
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="max-w-40 truncate text-indigo">
        {me.name} ▾
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={3}
          className="z-50 border border-thread bg-paper p-1 text-[14px]"
        >
          {me.role === "keeper" && (
            <DropdownMenu.Item className={ITEM} onSelect={() => void go("/people")}>
              People, and what was done
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item className={ITEM} onSelect={() => leave.mutate(false)}>
            Sign out
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={() => leave.mutate(true)}>
            Sign out everywhere
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
