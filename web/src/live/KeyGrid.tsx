import type { KeyNow, LiveNow, LiveView, SurfaceKey, SurfacePage } from "../api/types";
import type { Gesture } from "./gesture";
import { aroundLight, figurePlace, isGlass, shownKeys } from "./layout";
import { LiveKey } from "./LiveKey";

/** Pixels for a mm of what has hard keys. */
const HAND_PX = 6;

/** What keys have in common. */
export interface Hands {
  token: string;
  view: LiveView;
  now: LiveNow;
  /** Is the connection lost? */
  lost: boolean;
  /** How soon each thing would be there, in s; null where it cannot be started. */
  soon: Map<string, number | null>;
  press: (key: SurfaceKey, gesture: Gesture) => void;
  turn: (page: string) => void;
  tell: (text: string) => void;
}

/** A page of keys on its grid; what is given as `light` stands above the keys for light and what moves. */
export function KeyGrid({
  page,
  hands,
  light,
}: {
  page: SurfacePage;
  hands: Hands;
  light?: React.ReactNode;
}) {
  const keys = shownKeys(page, isGlass(hands.view));
  const [above, rest] = light ? aroundLight(keys) : [keys, []];
  return (
    <section
      aria-label={page.name}
      className="mx-auto min-w-0 flex-1"
      // What has hard keys is as narrow as it is in the hand.
      style={
        isGlass(hands.view) ? undefined : { maxWidth: Math.max(260, hands.view.surface.width_mm * HAND_PX) }
      }
    >
      <h2 className="mb-1.5 px-0.5 text-[15px] text-muted">{page.name}</h2>
      <Keys keys={above} hands={hands} />
      {light}
      {rest.length > 0 && (
        <div className="mt-3 border-t border-rule pt-3">
          <Keys keys={rest} hands={hands} />
        </div>
      )}
    </section>
  );
}

function Keys({ keys, hands }: { keys: SurfaceKey[]; hands: Hands }) {
  const { view, now } = hands;
  const known = new Map(now.keys.map((key): [string, KeyNow] => [key.key, key]));
  const figure = figurePlace(keys);
  return (
    <div
      className="grid gap-2"
      style={{
        gridTemplateColumns: `repeat(${view.surface.columns}, minmax(0, 1fr))`,
        gridAutoRows: "minmax(56px, auto)",
      }}
    >
      {keys.map((key) => (
        <LiveKey key={key.id} own={key} now={known.get(key.id)} hands={hands} />
      ))}
      {figure && (
        <Figure loudness={now.loudness} style={{ gridColumn: figure.column + 1, gridRow: figure.row + 1 }} />
      )}
    </div>
  );
}

/** How loud it is, where the device tells it. */
function Figure({ loudness, style }: { loudness: LiveNow["loudness"]; style: React.CSSProperties }) {
  return (
    <p
      className="flex flex-col items-center justify-center text-center text-[14px] leading-tight text-muted"
      style={style}
    >
      {loudness && !loudness.silent && (
        <span className="font-mono text-[20px] font-semibold text-ink">
          {loudness.tenths % 10 ? (loudness.tenths / 10).toFixed(1) : loudness.tenths / 10}
        </span>
      )}
      {loudness?.silent ? "silent" : "loudness"}
    </p>
  );
}
