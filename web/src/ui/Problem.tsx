import { CircleAlert } from "lucide-react";
import type { ReactNode } from "react";

/** What went wrong, where it went wrong; `children` are the ways on. */
export function ProblemNote({ text, children }: { text: string; children?: ReactNode }) {
  return (
    <div role="alert" className="flex gap-2 border-l-4 border-stop bg-soft px-3 py-2">
      <CircleAlert aria-hidden size={18} className="mt-0.5 shrink-0 text-stop" />
      <div className="min-w-0">
        <p className="break-words">{text}</p>
        {children && <div className="mt-1 flex flex-wrap gap-3">{children}</div>}
      </div>
    </div>
  );
}
