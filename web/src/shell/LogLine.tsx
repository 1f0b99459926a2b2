import { timeOfDay } from "../ui/when";
import { useRoom, type Said } from "./context";

/** The log line: the last thing that happened, with the way to the logbook. */
export function LogLine({
  said,
  onOpen,
  onKeys,
}: {
  said: Said | undefined;
  onOpen: () => void;
  onKeys: () => void;
}) {
  const { house } = useRoom();
  return (
    <footer className="flex min-h-8 items-center gap-4 border-t border-rule px-[18px] text-[13px] text-muted">
      <p role="status" aria-live="polite" className="min-w-0 truncate">
        {said ? (
          <>
            <span className="text-ink">{said.text}</span>
            <span className="ml-3 font-mono">{timeOfDay(said.at)}</span>
          </>
        ) : (
          `Revision ${house.revision}`
        )}
      </p>
      <button type="button" className="link ml-auto text-[13px] whitespace-nowrap" onClick={onOpen}>
        Logbook
      </button>
      <button type="button" className="link text-[13px] whitespace-nowrap" onClick={onKeys}>
        Keys <span className="kbd ml-1">?</span>
      </button>
    </footer>
  );
}
