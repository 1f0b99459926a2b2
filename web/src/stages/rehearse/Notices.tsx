import type { Notice, RehearsalView, Situation } from "../../api/types";
import { clockTime } from "../../ui/time";
import { Ways } from "./Run";

const WORD: Record<Notice["kind"], string> = {
  adopted: "Adopted",
  lost: "Out of step",
  ambiguous: "Not clear",
  silent: "Silence",
  held: "Held back",
};

/** What the runtime has noticed, the newest first, with what could be done about it now. */
export function Notices({
  view,
  ask,
  complete,
}: {
  view: RehearsalView;
  ask: (to: Situation) => void;
  complete: () => void;
}) {
  const newest = [...view.notices].reverse().slice(0, 4);
  if (newest.length === 0) return null;
  const taken = view.taken_for;
  const isTaken = (to: Situation) => to.is === "in" && taken?.is === "in" && to.activity === taken.activity;
  const running = view.run && !view.run.end;
  return (
    <ul className="mt-2 border-t border-rule" aria-label="What the runtime noticed" data-testid="notices">
      {newest.map((notice, at) => {
        // What was offered before something else happened is of yesterday.
        const fresh = at === 0 && !running && notice.at_ms >= (view.run?.ended_ms ?? 0);
        return (
          <li key={notice.number} className="border-b border-rule py-1.5">
            <span className="mr-2 font-mono text-[13px] text-muted">{clockTime(notice.at_ms)}</span>
            <strong className={notice.kind === "adopted" ? "text-second" : "text-caution"}>
              {WORD[notice.kind]}
            </strong>{" "}
            {notice.text}
            {fresh && notice.offers.length > 0 && (
              <Ways
                ways={notice.offers}
                ask={(to) => (notice.kind === "adopted" && isTaken(to) ? complete() : ask(to))}
              />
            )}
          </li>
        );
      })}
    </ul>
  );
}
