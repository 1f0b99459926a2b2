import { PencilLine } from "lucide-react";
import { useIsTyped } from "./draft";

/** Marks a thing in a list of which something is typed and not saved; `of` are the beginnings of its drafts. */
export function NotSaved({ of, brief = false }: { of: string[]; brief?: boolean }) {
  const typed = useIsTyped(...of);
  if (!typed) return null;
  if (!brief) return <span className="pl-2 text-[13px] font-normal text-caution">not saved yet</span>;
  return (
    <span className="text-caution" title="not saved yet">
      <PencilLine aria-hidden size={13} />
      <span className="sr-only">, not saved yet</span>
    </span>
  );
}
