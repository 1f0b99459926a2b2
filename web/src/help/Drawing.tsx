import type { StageInfo } from "../shell/stages";

const LINE = { fill: "none", strokeWidth: 1.5 } as const;

/** A small drawing of what a stage is about. */
export function Drawing({ stage }: { stage: StageInfo["id"] }) {
  return (
    <svg aria-hidden viewBox="0 0 240 56" className="my-2 w-full max-w-60 stroke-ink" {...LINE}>
      {DRAWN[stage]}
    </svg>
  );
}

/** Where keys stand on the drawn surface. */
const KEYS = [100, 122, 144].flatMap((x) => [8, 25, 42].map((y) => [x, y] as const));

const DRAWN: Record<StageInfo["id"], React.ReactNode> = {
  // A player, a receiver and a display, cabled.
  kit: (
    <>
      <path d="M6 20h48v16H6zM96 16h48v24H96zM184 8h50v36h-50z" />
      <path d="M54 28h42m48 0h40" className="stroke-accent" strokeWidth={2.5} />
      <path d="M201 44v6h16v-6" />
    </>
  ),
  // A capture: marks and spaces.
  codes: (
    <path d="M4 44h12V12h44v32h22V12h8v32h8V12h8v32h20V12h8v32h20V12h8v32h8V12h8v32h8V12h8v32h20V12h8v32h16" />
  ),
  // Two lanes: a wait on each, and the moment at which both are there.
  sequences: (
    <>
      <path d="M4 18h232M4 40h232" className="stroke-rule" />
      <path d="M20 11h150v14H20z" className="fill-select stroke-edge" />
      <path d="M52 33h60v14H52z" className="fill-select stroke-edge" />
      <path d="M20 7v22M52 29v22" strokeWidth={3} />
      <path d="M172 4v48" className="stroke-accent" strokeWidth={2} />
    </>
  ),
  // Light that goes down as the film begins, and comes back.
  cues: (
    <>
      <path d="M4 50h232" className="stroke-rule" />
      <path d="M4 12h50c22 0 14 32 36 32h74c20 0 14-18 34-18h38" className="stroke-accent" strokeWidth={2} />
    </>
  ),
  surfaces: (
    <>
      <rect x="88" y="2" width="64" height="52" rx="6" />
      {KEYS.map(([x, y]) => (
        <circle key={`${x} ${y}`} cx={x - 4 + 4} cy={y + 3} r="5" className="fill-select" />
      ))}
    </>
  ),
  // What is sent, and what comes back.
  rehearse: (
    <>
      <path d="M20 14h60v28H20zM160 14h60v28h-60z" />
      <path d="M84 22h70m-6-5 7 5-7 5" className="stroke-accent" />
      <path d="M156 36H86m6-5-7 5 7 5" className="stroke-second" strokeDasharray="4 3" />
    </>
  ),
  // Readings between two times, and the list that they tick.
  handover: (
    <>
      <path d="M8 34h120M8 28v12M128 28v12" className="stroke-edge" />
      {[24, 46, 60, 66, 84, 104].map((x, at) => (
        <circle key={x} cx={x} cy={22 + (at % 2) * 8} r="4" className="fill-second stroke-second" />
      ))}
      <path d="M104 10v34" className="stroke-accent" strokeWidth={2} />
      <path d="M156 14h10v8h-10zM156 32h10v8h-10zM174 18h54M174 36h40M157 17l4 4 8-10" />
    </>
  ),
};
