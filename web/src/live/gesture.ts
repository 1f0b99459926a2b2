import { double_tap_ms, hold_ms } from "../api/rules.json";
import type { KeyNow } from "../api/types";

type Meaning = KeyNow["meanings"][number];
export type Gesture = Meaning["gesture"];

/** How long a key is down before that is a hold, and how long after a tap a second one may start, in ms: as the
 * runtime has it. */
export { hold_ms as HOLD_MS, double_tap_ms as DOUBLE_MS };

/** Tells a tap, a double tap and a hold apart. A tap waits for a second one only where that means something. */
export class Finger {
  private down: ReturnType<typeof setTimeout> | undefined;
  private waiting: ReturnType<typeof setTimeout> | undefined;
  private held = false;
  /** Did it go down here? A finger that comes from another key means nothing when it goes up. */
  private here = false;

  constructor(
    private readonly meanings: () => Meaning[],
    private readonly tell: (gesture: Gesture) => void,
  ) {}

  private has(gesture: Gesture): boolean {
    return this.meanings().some((known) => known.gesture === gesture);
  }

  /** Does a hold mean anything: by itself, or as a tap that goes on? */
  private holds(): boolean {
    return this.meanings().some(
      (known) => known.gesture === "hold" || (known.gesture === "tap" && known.held !== "once"),
    );
  }

  press(): void {
    this.here = true;
    this.held = false;
    clearTimeout(this.down);
    this.down = setTimeout(() => {
      this.down = undefined;
      if (!this.holds()) return;
      this.held = true;
      this.tell("hold");
    }, hold_ms);
  }

  /** The finger goes up, or away (`lost`): what was held is let go, and nothing else happens then. */
  lift(lost = false): void {
    if (!this.here) return;
    this.here = false;
    const short = this.down !== undefined;
    clearTimeout(this.down);
    this.down = undefined;
    if (this.held) {
      this.held = false;
      this.tell("release");
    } else if (!lost && (short || !this.holds())) {
      this.tap();
    }
  }

  tap(): void {
    if (!this.has("double-tap")) {
      this.tell("tap");
    } else if (this.waiting !== undefined) {
      clearTimeout(this.waiting);
      this.waiting = undefined;
      this.tell("double-tap");
    } else {
      this.waiting = setTimeout(() => {
        this.waiting = undefined;
        this.tell("tap");
      }, double_tap_ms);
    }
  }
}
