import { Ellipsis } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import type { ReactNode } from "react";

/** What can be done with a thing, behind three dots. */
export function Menu({ label, children }: { label: string; children: ReactNode }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="btn border-transparent px-2" aria-label={label}>
        <Ellipsis aria-hidden size={18} />
      </DropdownMenu.Trigger>
      <MenuSheet align="end">{children}</MenuSheet>
    </DropdownMenu.Root>
  );
}

/** What opens below the button of a menu. */
export function MenuSheet({ align, children }: { align: "start" | "end"; children: ReactNode }) {
  return (
    <DropdownMenu.Portal>
      <DropdownMenu.Content
        align={align}
        collisionPadding={8}
        className="z-[60] min-w-56 border border-edge bg-paper py-1 text-ink shadow-md"
      >
        {children}
      </DropdownMenu.Content>
    </DropdownMenu.Portal>
  );
}

/** One thing that can be done. */
export function MenuItem({ onSelect, children }: { onSelect: () => void; children: ReactNode }) {
  return (
    <DropdownMenu.Item
      onSelect={onSelect}
      className="flex min-h-9 cursor-pointer items-center px-4 outline-none data-[highlighted]:bg-select max-sm:min-h-11"
    >
      {children}
    </DropdownMenu.Item>
  );
}

/** What stands below is of another kind. */
export function MenuLine() {
  return <DropdownMenu.Separator className="my-1 border-t border-rule" />;
}
