/** A row of tabs: arrows move, the chosen one is underlined. */
export function Tabs({
  label,
  parts,
  value,
  onChange,
}: {
  label: string;
  parts: readonly (readonly [string, string])[];
  value: string;
  onChange: (value: string) => void;
}) {
  const move = (event: React.KeyboardEvent, by: number) => {
    const at = parts.findIndex(([known]) => known === value);
    const next = parts[(at + by + parts.length) % parts.length];
    if (!next) return;
    event.preventDefault();
    onChange(next[0]);
    const buttons = event.currentTarget.parentElement?.querySelectorAll<HTMLElement>("[role=tab]");
    buttons?.[(at + by + parts.length) % parts.length]?.focus();
  };
  return (
    <div role="tablist" aria-label={label} className="mb-2 flex gap-4 overflow-x-auto border-b border-rule">
      {parts.map(([known, name]) => (
        <button
          key={known}
          type="button"
          role="tab"
          aria-selected={known === value}
          tabIndex={known === value ? 0 : -1}
          className={`min-h-8 shrink-0 border-b-2 px-0.5 ${known === value ? "border-accent font-semibold" : "border-transparent text-muted hover:text-ink"}`}
          onClick={() => onChange(known)}
          onKeyDown={(event) => {
            if (event.key === "ArrowRight") move(event, 1);
            if (event.key === "ArrowLeft") move(event, -1);
          }}
        >
          {name}
        </button>
      ))}
    </div>
  );
}
