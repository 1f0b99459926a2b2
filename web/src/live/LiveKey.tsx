import { useEffect, useRef } from "react";
import type { KeyNow, SurfaceKey } from "../api/types";
import { Finger } from "./gesture";

type Gesture = KeyNow["meanings"][number]["gesture"];

/** A key under a finger: lit by what is known, faint with its reason where it would do nothing. */
export function LiveKey({
  token,
  own,
  now,
  off,
  onPress,
  onTurn,
  onTell,
}: {
  token: string;
  own: SurfaceKey;
  now: KeyNow | undefined;
  off: boolean;
  onPress: (gesture: Gesture) => void;
  onTurn: (page: string) => void;
  onTell: (text: string) => void;
}) {
  const meanings = now?.meanings ?? [];
  const tap = meanings.find((known) => known.gesture === "tap");
  const barred = off ? "No connection to the house." : meanings.length === 0 ? "Nothing here." : tap?.barred;
  const tell = (gesture: Gesture) => {
    const meant = meanings.find((known) => known.gesture === gesture);
    if (gesture === "tap" && meant?.page) onTurn(meant.page);
    else if (gesture === "tap" && barred) onTell(barred);
    else onPress(gesture);
  };
  const latest = useRef({ meanings, tell });
  useEffect(() => {
    latest.current = { meanings, tell };
  });
  const finger = useRef<Finger>(undefined);
  const hand = () =>
    (finger.current ??= new Finger(
      () => latest.current.meanings,
      (gesture) => latest.current.tell(gesture),
    ));
  const lit = now?.lit ?? false;
  const more = meanings.filter((known) => known.gesture === "hold" || known.gesture === "double-tap");
  return (
    <button
      type="button"
      className={`relative flex touch-manipulation flex-col items-center justify-center rounded-md border px-1 py-1 text-center text-[15px] leading-tight select-none active:bg-select ${lit ? "border-2 border-accent font-semibold text-accent" : "border-edge"} ${barred ? "border-dashed text-muted" : ""}`}
      style={{
        gridColumn: `${own.column + 1} / span ${own.wide ?? 1}`,
        gridRow: `${own.row + 1} / span ${own.tall ?? 1}`,
        ...(own.tint && !barred ? { color: own.tint.ink, background: own.tint.ground } : {}),
      }}
      aria-pressed={lit}
      aria-disabled={barred ? true : undefined}
      title={[
        barred,
        ...more.map((known) => `${known.gesture === "hold" ? "held" : "twice"}: ${known.words}`),
      ]
        .filter(Boolean)
        .join(" · ")}
      onPointerDown={(event) => {
        if (event.button === 0) hand().press();
      }}
      onPointerUp={() => hand().lift()}
      onPointerCancel={() => hand().lift(true)}
      onPointerLeave={() => hand().lift(true)}
      onContextMenu={(event) => event.preventDefault()}
      onClick={(event) => {
        // From a keyboard or a reader: there was no pointer.
        if (event.detail === 0) tell("tap");
      }}
    >
      {own.picture ? (
        <img
          src={`/api/live/${token}/pictures/${own.picture}`}
          alt={own.label}
          className="max-h-10"
          draggable={false}
        />
      ) : (
        own.label
      )}
      {now?.way && <span className="text-[12px] text-muted">{now.way}</span>}
      {lit && <span aria-hidden className="absolute top-1 right-1 size-1.5 rounded-full bg-accent" />}
    </button>
  );
}
