import { Plus, Trash2 } from "lucide-react";

/** Lines of one kind that can be added to: settings, apps, stops. */
export function Lines({
  title,
  add,
  hint,
  children,
}: {
  title: string;
  add: () => void;
  hint: string;
  children: React.ReactNode;
}) {
  return (
    <div className="mt-3 border-t border-rule pt-1.5">
      <div className="flex items-center gap-3">
        <h4 className="font-semibold">{title}</h4>
        <button type="button" className="link text-[13px]" onClick={add}>
          <Plus aria-hidden size={13} /> Add a line
        </button>
        <span className="text-[13px] text-muted">{hint}</span>
      </div>
      <ul className="flex flex-col gap-1">{children}</ul>
    </div>
  );
}

/** Takes a line away. */
export function RemoveLine({ what, onRemove }: { what: string; onRemove: () => void }) {
  return (
    <button
      type="button"
      className="btn border-transparent px-2"
      aria-label={`Remove ${what}`}
      onClick={onRemove}
    >
      <Trash2 aria-hidden size={15} />
    </button>
  );
}
