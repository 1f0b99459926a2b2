/** Something takes a moment: what it is, that it goes on, and the way to end it. */
export function Busy({ what, onCancel }: { what: string; onCancel: () => void }) {
  return (
    <p role="status" className="flex flex-wrap items-center gap-3">
      <span>{what}</span>
      <progress aria-label={what} className="h-2 w-40" />
      <button type="button" className="link" onClick={onCancel}>
        Cancel
      </button>
    </p>
  );
}
