import { createElement, useEffect, useRef } from "react";
import type { KeyNow, SurfaceKey } from "../api/types";
import { Finger, type Gesture } from "./gesture";
import { isLoudness, isPad, isWordless, keyIcon } from "./icons";
import type { Hands } from "./KeyGrid";

/** A key under a finger: lit by what is known, faint with its reason where it would do nothing. */
export function LiveKey({
  own,
  now,
  hands,
  foot = false,
}: {
  own: SurfaceKey;
  now: KeyNow | undefined;
  hands: Hands;
  /** At the foot of glass, word beside picture. */
  foot?: boolean;
}) {
  const meanings = now?.meanings ?? [];
  const tap = meanings.find((known) => known.gesture === "tap");
  const nothing = meanings.length === 0 ? "Nothing here." : undefined;
  const barred = hands.lost ? "No connection to the house." : (nothing ?? tap?.barred ?? undefined);
  const tell = (gesture: Gesture) => {
    const meant = meanings.find((known) => known.gesture === gesture);
    if (gesture === "tap" && meant?.page) hands.turn(meant.page);
    else if (gesture === "tap" && barred) hands.tell(barred);
    else if (gesture === "tap" && !meant) {
      const hold = meanings.find((known) => known.gesture === "hold");
      if (hold) hands.tell(`Hold this key: ${hold.words}`);
    } else hands.press(own, gesture);
  };
  const touch = useFinger(meanings, tell);
  const lit = now?.lit ?? false;
  const more = meanings
    .filter((known) => known.gesture === "hold" || known.gesture === "double-tap")
    .map((known) => `${known.gesture === "hold" ? "held" : "twice"}: ${known.words}`);
  const place = foot
    ? {}
    : {
        gridColumn: `${own.column + 1} / span ${own.wide ?? 1}`,
        gridRow: `${own.row + 1} / span ${own.tall ?? 1}`,
      };
  const tint = own.tint && !barred ? { color: own.tint.ink, background: own.tint.ground } : {};
  const look = lit ? "border-2 border-accent bg-lit font-semibold text-accent" : "border-edge";
  const ground = (isPad(own) && !isOk(own)) || isLoudness(own) ? "bg-soft" : "";
  return (
    <button
      type="button"
      className={`relative flex touch-manipulation items-center justify-center gap-1 rounded-[10px] border-[1.5px] px-1 py-1.5 text-center leading-tight select-none active:bg-select ${foot ? "min-h-[50px] flex-1 flex-row text-[13.5px] font-semibold" : isCard(own) ? "min-h-[76px] flex-col items-start px-2.5 text-left text-[15px] font-semibold" : "flex-col text-[14px]"} ${look} ${ground} ${barred ? "border-dashed text-muted" : ""}`}
      style={{ ...place, ...tint }}
      aria-pressed={lit}
      aria-disabled={barred ? true : undefined}
      aria-label={isWordless(own) ? own.label : undefined}
      title={[barred, ...more].filter(Boolean).join(" · ") || undefined}
      {...touch}
    >
      <Face own={own} hands={hands} />
      <Under own={own} now={now} lit={lit} hands={hands} />
    </button>
  );
}

function isOk(key: SurfaceKey): boolean {
  return key.role?.is === "term" && key.role.name === "OK";
}

/** Things to start are wide cards. */
function isCard(key: SurfaceKey): boolean {
  return key.role?.is === "activity" && (key.wide ?? 1) > 1;
}

/** Picture and word: the user's own picture, or a drawn one. */
function Face({ own, hands }: { own: SurfaceKey; hands: Hands }) {
  if (own.picture)
    return (
      <img
        src={`/api/live/${hands.token}/pictures/${own.picture}`}
        alt={own.label}
        className="max-h-10"
        draggable={false}
      />
    );
  const activity = own.role?.is === "activity" ? own.role.activity : undefined;
  const thing = hands.view.things.find((known) => known.activity === activity);
  const icon = keyIcon(own, thing);
  const colour = own.role?.is === "term" ? COLOURS[own.role.name] : undefined;
  const big = isWordless(own) || isLoudness(own) || isCard(own);
  return (
    <>
      {icon &&
        createElement(icon, {
          "aria-hidden": true,
          size: big ? 26 : 20,
          strokeWidth: 1.8,
          className: "shrink-0",
        })}
      {colour && (
        <span
          aria-hidden
          className="h-2 w-8 rounded-full border border-edge"
          style={{ background: colour }}
        />
      )}
      {!isWordless(own) && (
        <span className={`max-w-full wrap-break-word ${isOk(own) ? "text-[17px] font-semibold" : ""}`}>
          {own.label}
        </span>
      )}
    </>
  );
}

/** Keys that every remote has in these colours. */
const COLOURS: Record<string, string> = {
  Red: "#a3222b",
  Green: "#2f6b3a",
  Yellow: "#c7973d",
  Blue: "#1c6470",
};

/** What stands below the word: which of two things it does, whether it is on, how soon it would be there. */
function Under({
  own,
  now,
  lit,
  hands,
}: {
  own: SurfaceKey;
  now: KeyNow | undefined;
  lit: boolean;
  hands: Hands;
}) {
  const small = "text-[12.5px] font-normal text-muted";
  if (now?.way) return <span className={small}>{now.way}</span>;
  if (own.role?.is !== "activity")
    return lit ? (
      <span aria-hidden className="absolute top-1 right-1 size-1.5 rounded-full bg-accent" />
    ) : null;
  if (lit) return <span className={small}>{hands.now.done_percent == null ? "on now" : "starting"}</span>;
  const soon = hands.soon.get(own.role.activity);
  if (soon === undefined) return null;
  return <span className={small}>{soon === null ? "not set up yet" : `ready in ${soon} s`}</span>;
}

/** Presses of a pointer, of a keyboard and of a reader, as taps, double taps and holds. */
function useFinger(meanings: KeyNow["meanings"], tell: (gesture: Gesture) => void) {
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
  return {
    onPointerDown: (event: React.PointerEvent) => {
      if (event.button === 0) hand().press();
    },
    onPointerUp: () => hand().lift(),
    onPointerCancel: () => hand().lift(true),
    onPointerLeave: () => hand().lift(true),
    onContextMenu: (event: React.MouseEvent) => event.preventDefault(),
    onClick: (event: React.MouseEvent) => {
      // From a keyboard or a reader: there was no pointer.
      if (event.detail === 0) latest.current.tell("tap");
    },
  };
}
