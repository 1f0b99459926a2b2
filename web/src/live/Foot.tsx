import { CircleHelp, Hand } from "lucide-react";
import { useState } from "react";
import type { KeyNow } from "../api/types";
import { usePress } from "./api";
import type { Hands } from "./KeyGrid";
import { finishKey, isGlass } from "./layout";
import { LiveKey } from "./LiveKey";
import { NotRight } from "./NotRight";

const FOOT =
  "flex min-h-[50px] flex-1 touch-manipulation items-center justify-center gap-1 rounded-[10px] border-[1.5px] px-0.5 text-[13.5px] whitespace-nowrap font-semibold select-none active:bg-select";

/** What is always at hand, below everything that scrolls: something is wrong, stop what moves, finish. */
export function Foot({ hands }: { hands: Hands }) {
  const { view, now } = hands;
  const [asks, setAsks] = useState(false);
  const { stop } = usePress(hands.token);
  const finish = isGlass(view) ? finishKey(view) : undefined;
  const known = finish && now.keys.find((key): key is KeyNow => key.key === finish.id);
  return (
    <footer className="border-t border-rule px-3 py-2">
      <div className="mx-auto flex max-w-xl gap-2">
        <button type="button" className={`${FOOT} border-edge`} onClick={() => setAsks(true)}>
          <CircleHelp aria-hidden size={18} className="shrink-0" /> Not right?
        </button>
        {now.stops && (
          <button
            type="button"
            className={`${FOOT} border-stop text-stop`}
            onClick={() => stop.mutate(undefined, { onError: (error) => hands.tell(error.message) })}
          >
            <Hand aria-hidden size={18} className="shrink-0" /> Stop moving
          </button>
        )}
        {finish && <LiveKey own={finish} now={known} hands={hands} foot />}
      </div>
      {asks && <NotRight hands={hands} onClose={() => setAsks(false)} />}
    </footer>
  );
}
