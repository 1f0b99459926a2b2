import type { Shelf } from "../api/types";
import { usePutBack } from "./api";
import { onDay } from "./words";

/** Houses that were removed and are still kept. */
export function Removed({
  removed,
  say,
  fail,
}: {
  removed: Shelf["removed"];
  say: (line: string) => void;
  fail: (line: string) => void;
}) {
  const back = usePutBack();
  if (removed.length === 0) return null;
  const now = new Date();
  return (
    <section aria-label="Removed houses" className="mt-5 text-muted">
      <h3 className="text-[13px] font-medium">Removed</h3>
      <ul>
        {removed.map((house) => (
          <li key={house.id} className="flex flex-wrap items-center gap-x-2">
            {house.name}, kept until {onDay(house.kept_until, now)}.
            <button
              type="button"
              className="link"
              aria-label={`Put ${house.name} back`}
              onClick={() =>
                void back.mutateAsync(house.id).then(
                  (made) => say(made.said),
                  (error: Error) => fail(error.message),
                )
              }
            >
              Put it back
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
