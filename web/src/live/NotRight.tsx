import { CircleEllipsis, Lightbulb, type LucideIcon, MonitorOff, VolumeX } from "lucide-react";
import { useState } from "react";
import type { Amiss, SurfaceKey } from "../api/types";
import { Sheet } from "../ui/Sheet";
import { usePress, useRighting } from "./api";
import type { Hands } from "./KeyGrid";
import { Whom } from "./Whom";

const WRONG: [Amiss, string, LucideIcon][] = [
  ["no-picture", "No picture", MonitorOff],
  ["no-sound", "No sound", VolumeX],
  ["light", "Too dark or too bright", Lightbulb],
  ["else", "Something else", CircleEllipsis],
];

/** Something is wrong: four pictures, then what can be done about it from here, and whom to call. */
export function NotRight({ hands, onClose }: { hands: Hands; onClose: () => void }) {
  const { amiss, right } = useRighting(hands.token);
  const [what, setWhat] = useState<Amiss>();
  const whom = <Whom programmer={hands.view.programmer} />;
  return (
    <Sheet open onClose={onClose} title={what ? titleOf(what) : "What is not right?"}>
      {!what && (
        <div className="grid grid-cols-2 gap-2">
          {WRONG.map(([kind, words, Icon]) => (
            <button
              key={kind}
              type="button"
              className="flex min-h-28 flex-col items-center justify-center gap-2 rounded-[10px] border-[1.5px] border-edge px-2 text-[16px] active:bg-select"
              onClick={() => {
                setWhat(kind);
                amiss.mutate(kind);
              }}
            >
              <Icon aria-hidden size={36} strokeWidth={1.6} />
              {words}
            </button>
          ))}
        </div>
      )}
      {what && amiss.isPending && <p role="status">One moment …</p>}
      {what && amiss.error && (
        <p role="alert" className="text-stop">
          {amiss.error.message} {whom}
        </p>
      )}
      {what === "light" && <Looks hands={hands} onClose={onClose} />}
      {what && amiss.data && (
        <>
          {amiss.data.to && what !== "light" ? (
            <div className="text-[16px]">
              {amiss.data.moves.length > 0 && (
                <p className="mb-2 font-semibold text-stop">
                  Keep clear: {amiss.data.moves.join(", ")} may move.
                </p>
              )}
              <p>
                This brings back <strong>{amiss.data.to}</strong>, whatever is on now
                {amiss.data.takes_s ? `. It takes up to ${amiss.data.takes_s} s` : ""}.
              </p>
              <button
                type="button"
                className="mt-3 flex min-h-12 w-full items-center justify-center rounded-[10px] border-2 border-accent px-3 font-semibold text-accent active:bg-select"
                disabled={right.isPending}
                onClick={() =>
                  right.mutate(undefined, {
                    onSuccess: onClose,
                    onError: (error) => hands.tell(error.message),
                  })
                }
              >
                We keep clear: put it right
              </button>
            </div>
          ) : (
            what !== "light" && <p className="text-[16px]">From here nobody can promise to put it right.</p>
          )}
          <p className="mt-3 border-t border-rule pt-3 text-[15px] text-muted">
            What you said is written down for whoever set up the room. Still not right? {whom}
          </p>
        </>
      )}
    </Sheet>
  );
}

function titleOf(what: Amiss): string {
  return WRONG.find(([kind]) => kind === what)?.[1] ?? "";
}

/** Lights of the room to choose from. */
function Looks({ hands, onClose }: { hands: Hands; onClose: () => void }) {
  const { press } = usePress(hands.token);
  const seen = new Set<string>();
  const looks: SurfaceKey[] = [];
  for (const key of (hands.view.surface.pages ?? []).flatMap((page) => page.keys)) {
    if (key.role?.is !== "look" || seen.has(key.role.look)) continue;
    seen.add(key.role.look);
    looks.push(key);
  }
  if (looks.length === 0) return <p className="text-[16px]">Use the switches on the wall for now.</p>;
  return (
    <div className="grid grid-cols-2 gap-2">
      {looks.map((key) => (
        <button
          key={key.id}
          type="button"
          className="min-h-12 rounded-[10px] border-[1.5px] border-edge px-2 text-[15px] active:bg-select"
          onClick={() =>
            press.mutate(
              { key: key.id, gesture: "tap" },
              { onSuccess: onClose, onError: (error) => hands.tell(error.message) },
            )
          }
        >
          {key.label}
        </button>
      ))}
    </div>
  );
}
