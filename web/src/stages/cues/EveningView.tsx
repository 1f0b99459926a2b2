import { Play, Square } from "lucide-react";
import { useEffect, useState } from "react";
import type { Evening, EveningEvent, Start } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { Waiting } from "../../ui/Waiting";
import { useCueSheet, useEvening, useLighting } from "./api";
import { CourseView } from "./CourseView";
import { bent, clock, levelAt, WAY, zoneNamed } from "./lighting";

type Way = Start["way"];

const LENGTH_MS = 120 * 60_000;
const DAY = "2027-01-15";
const [WIDTH, HEIGHT, LEFT, TOP] = [920, 230, 40, 16];

/** Dashes and widths tell the zones apart, not colour alone. */
const STROKES = ["", "9 4", "2 3", "12 3 2 3", "5 5", "1 5"];
const COLOURS = [
  "var(--color-accent)",
  "var(--color-second)",
  "var(--color-ink)",
  "var(--color-good)",
  "var(--color-caution)",
  "var(--color-muted)",
];

function pad(value: number): string {
  return String(value).padStart(2, "0");
}

/** An evening as curves: drag the time of the day, press play, and see every zone's level and what fired. */
export function EveningView() {
  const { house, room } = useRoom();
  const { lighting } = useLighting();
  const activities = house.activities.filter((known) => known.room === room);
  const [activity, setActivity] = useState(activities[0]?.id);
  const [minute, setMinute] = useState(20 * 60);
  const [day, setDay] = useState(DAY);
  const [at, setAt] = useState(LENGTH_MS * 0.25);
  const [playing, setPlaying] = useState(false);
  const [way, setWay] = useState<Way>("our-key");
  const [as, setAs] = useState<Drawn>("level");
  const start = `${day}T${pad(Math.floor(minute / 60))}:${pad(minute % 60)}`;
  const [changed, setChanged] = useState<EveningEvent[]>();
  const usual = useEvening(start, LENGTH_MS, activity);
  const course = changed ?? usual.data?.events;
  // The same course of events, brought about in another way.
  const events = course?.map((event): EveningEvent =>
    event.act.does === "transport" ? { ...event, act: { ...event.act, way } } : event,
  );
  const plain = way === "our-key" && !changed;
  // What is being typed need not be in order yet.
  const inOrder = events && [...events].sort((a, b) => a.at_ms - b.at_ms);
  const other = useEvening(start, LENGTH_MS, activity, plain ? undefined : inOrder);
  const evening = plain ? usual : other;
  useEffect(() => {
    if (!playing) return;
    const timer = setInterval(
      () =>
        setAt((old) => {
          if (old >= LENGTH_MS) {
            setPlaying(false);
            return LENGTH_MS;
          }
          return old + 15_000;
        }),
      50,
    );
    return () => clearInterval(timer);
  }, [playing]);
  if (lighting.zones.length === 0)
    return (
      <p className="border-t border-ink py-2 text-muted">
        No zone yet: name what is dimmed together under Zones and looks, then its evening is drawn here.
      </p>
    );
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <Choice
          label="Activity"
          className="w-48"
          value={activity ?? ""}
          options={activities.map((known) => ({ value: known.id, label: known.name }))}
          onChange={(next) => {
            setActivity(next);
            setChanged(undefined);
          }}
        />
        <WhenItIs minute={minute} setMinute={setMinute} day={day} setDay={setDay} />
        <HowItIsDrawn way={way} setWay={setWay} as={as} setAs={setAs} />
        <button
          type="button"
          className="btn btn-main"
          onClick={() => {
            if (!playing && at >= LENGTH_MS) setAt(0);
            setPlaying(!playing);
          }}
        >
          {playing ? <Square aria-hidden size={14} /> : <Play aria-hidden size={14} />}{" "}
          {playing ? "Hold" : "Play"}
        </button>
      </div>
      {!evening.data && <Waiting what="the evening" error={evening.error} />}
      {evening.data && <Curves evening={drawn(evening.data, as)} at={at} setAt={setAt} />}
      {course && (
        <CourseView
          course={course}
          startMin={minute}
          lengthMs={LENGTH_MS}
          at={at}
          changed={changed !== undefined}
          onChange={setChanged}
        />
      )}
      {evening.data && <What evening={evening.data} at={at} setAt={setAt} />}
    </>
  );
}

/** What is drawn of an evening. */
type Drawn = "level" | "light";

/** The evening as levels, or as the light that the lamps give: fades are bent by the curve of the lamp. */
function drawn(evening: Evening, as: Drawn): Evening {
  if (as === "level") return evening;
  const lines = evening.lines.map((line) => ({
    ...line,
    points: bent(line.points).map((point) => ({ ...point, level: line.light[Math.round(point.level)] ?? 0 })),
  }));
  return { ...evening, lines };
}

function Curves({ evening, at, setAt }: { evening: Evening; at: number; setAt: (at: number) => void }) {
  const x = (ms: number) => LEFT + (ms / evening.length_ms) * (WIDTH - LEFT - 8);
  const y = (level: number) => TOP + (1 - level / 100) * HEIGHT;
  const sun = (
    [
      ["sunrise", evening.sunrise_ms],
      ["sunset", evening.sunset_ms],
    ] as const
  ).filter((event): event is ["sunrise" | "sunset", number] => typeof event[1] === "number");
  // Where it is dark outside: from the start, or from sunset, until sunrise.
  const changes = sun.map(([, ms]) => ms).sort((a, b) => a - b);
  const bands: [number, number][] = [];
  let dark = evening.dark_at_start;
  let from = 0;
  for (const change of [...changes, evening.length_ms]) {
    if (dark) bands.push([from, change]);
    dark = !dark;
    from = change;
  }
  const hours: number[] = [];
  for (let ms = 0; ms <= evening.length_ms; ms += 15 * 60_000) hours.push(ms);
  return (
    <>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT + TOP + 34}`}
        className="mt-2 w-full"
        role="img"
        aria-label={`Levels of ${evening.lines.length} zones over ${evening.length_ms / 60_000} minutes`}
        onClick={(event) => {
          const frame = event.currentTarget.getBoundingClientRect();
          const share = ((event.clientX - frame.left) / frame.width) * WIDTH;
          setAt(
            Math.min(
              evening.length_ms,
              Math.max(0, ((share - LEFT) / (WIDTH - LEFT - 8)) * evening.length_ms),
            ),
          );
        }}
      >
        {bands.map(([start, end]) => (
          <rect
            key={start}
            x={x(start)}
            y={TOP}
            width={x(end) - x(start)}
            height={HEIGHT}
            fill="var(--color-soft)"
          />
        ))}
        {[0, 25, 50, 75, 100].map((level) => (
          <g key={level}>
            <line x1={LEFT} x2={WIDTH - 8} y1={y(level)} y2={y(level)} stroke="var(--color-rule)" />
            <text x={LEFT - 6} y={y(level) + 4} textAnchor="end" fontSize="11.5" fill="var(--color-muted)">
              {level} %
            </text>
          </g>
        ))}
        {hours.map((ms) => (
          <text
            key={ms}
            x={x(ms)}
            y={TOP + HEIGHT + 16}
            textAnchor={ms === evening.length_ms ? "end" : "middle"}
            fontSize="11.5"
            fill="var(--color-muted)"
          >
            {clock((evening.start_min + ms / 60_000) % 1440)}
          </text>
        ))}
        {sun.map(([name, ms]) => (
          <g key={name}>
            <line
              x1={x(ms)}
              x2={x(ms)}
              y1={TOP}
              y2={TOP + HEIGHT}
              stroke="var(--color-caution)"
              strokeDasharray="3 3"
            />
            <text x={x(ms) + 4} y={TOP - 4} fontSize="12" fill="var(--color-caution)">
              {name}
            </text>
          </g>
        ))}
        {evening.fired
          .filter((fired) => !fired.held)
          .map((fired, index) => (
            <path key={index} d={`M${x(fired.at_ms)},${TOP + HEIGHT} l-4,6 h8 z`} fill="var(--color-ink)" />
          ))}
        {evening.lines.map((line, index) => (
          <polyline
            key={line.zone}
            points={line.points.map((point) => `${x(point.at_ms)},${y(point.level)}`).join(" ")}
            fill="none"
            stroke={COLOURS[index % COLOURS.length]}
            strokeDasharray={STROKES[index % STROKES.length]}
            strokeWidth={2.4}
          />
        ))}
        <line x1={x(at)} x2={x(at)} y1={TOP} y2={TOP + HEIGHT} stroke="var(--color-ink)" strokeWidth={1.5} />
      </svg>
      <label className="flex items-center gap-2">
        <span className="sr-only">Moment of the evening</span>
        <input
          type="range"
          className="w-full accent-accent"
          aria-label="Moment of the evening"
          aria-valuetext={clock(Math.floor(evening.start_min + at / 60_000) % 1440)}
          min={0}
          max={evening.length_ms}
          step={15_000}
          value={at}
          onChange={(event) => setAt(Number(event.target.value))}
        />
      </label>
      <LevelsNow evening={evening} at={at} />
    </>
  );
}

/** What fired, and what did not and why; what else was done. */
function What({ evening, at, setAt }: { evening: Evening; at: number; setAt: (at: number) => void }) {
  const sheet = useCueSheet();
  const moment = (id: string) => sheet.data?.lines.find((line) => line.cue === id);
  const rows = [
    ...evening.fired.map((fired) => ({
      at_ms: fired.at_ms,
      text: moment(fired.cue)?.moment ?? "a cue",
      light: fired.held ? undefined : moment(fired.cue)?.light,
      held: fired.held,
    })),
    ...evening.done.map((done) => ({
      at_ms: done.at_ms,
      text: done.text,
      light: undefined,
      held: undefined,
    })),
  ].sort((a, b) => a.at_ms - b.at_ms);
  if (rows.length === 0) return <p className="mt-2 text-muted">No cue fires in these two hours.</p>;
  return (
    <div className="scrolls">
      <table className="mt-3 w-full border-collapse" aria-label="What fired">
        <thead>
          <tr className="border-b border-ink text-left text-[13.5px] text-muted">
            <th scope="col" className="w-16 py-1 pr-3 text-right font-medium">
              At
            </th>
            <th scope="col" className="py-1 pr-3 font-medium">
              Moment
            </th>
            <th scope="col" className="py-1 font-medium">
              Light, or why not
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row, index) => (
            <tr key={index} className={`border-b border-rule ${row.at_ms <= at ? "" : "text-muted"}`}>
              <td className="pr-3 text-right">
                <button
                  type="button"
                  className="min-h-8 font-mono hover:text-accent"
                  onClick={() => setAt(row.at_ms + 1)}
                >
                  {clock(Math.floor(evening.start_min + row.at_ms / 60_000) % 1440)}
                </button>
              </td>
              <td className="pr-3">{row.text}</td>
              <td>{row.held ? <span className="text-caution">did not fire: {row.held}</span> : row.light}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** The hour and the day on which the evening begins. */
function WhenItIs({
  minute,
  setMinute,
  day,
  setDay,
}: {
  minute: number;
  setMinute: (minute: number) => void;
  day: string;
  setDay: (day: string) => void;
}) {
  return (
    <>
      <label className="flex items-center gap-2">
        Begins at <span className="font-mono">{clock(minute)}</span>
        <input
          type="range"
          className="w-32 accent-accent sm:w-56"
          aria-label="Time of the day"
          aria-valuetext={clock(minute)}
          min={0}
          max={1425}
          step={15}
          value={minute}
          onChange={(event) => setMinute(Number(event.target.value))}
        />
      </label>
      <label className="flex items-center gap-2">
        on
        <input
          type="date"
          className="field"
          aria-label="Date"
          value={day}
          onChange={(event) => event.target.value && setDay(event.target.value)}
        />
      </label>
    </>
  );
}

/** How playback is started, and whether levels or light are drawn. */
function HowItIsDrawn({
  way,
  setWay,
  as,
  setAs,
}: {
  way: Way;
  setWay: (way: Way) => void;
  as: Drawn;
  setAs: (as: Drawn) => void;
}) {
  return (
    <>
      <label className="flex items-center gap-2">
        Playback by
        <select
          className="field"
          aria-label="How playback is started"
          value={way}
          onChange={(event) => setWay(event.target.value as Way)}
        >
          {(Object.keys(WAY) as Way[])
            .filter((one) => one !== "end")
            .map((one) => (
              <option key={one} value={one}>
                {WAY[one]}
              </option>
            ))}
        </select>
      </label>
      <label className="flex items-center gap-2">
        Draw
        <select
          className="field"
          aria-label="What is drawn"
          value={as}
          onChange={(event) => setAs(event.target.value as Drawn)}
        >
          <option value="level">the level</option>
          <option value="light">the light that it gives</option>
        </select>
      </label>
    </>
  );
}

/** The levels at the chosen moment. */
function LevelsNow({ evening, at }: { evening: Evening; at: number }) {
  const { house } = useRoom();
  return (
    <p className="mt-1 flex flex-wrap gap-x-6" data-testid="levels">
      <strong className="font-mono">{clock(Math.floor(evening.start_min + at / 60_000) % 1440)}</strong>
      {evening.lines.map((line, index) => (
        <span key={line.zone} className="flex items-center gap-1.5">
          <svg width="30" height="6" aria-hidden>
            <line
              x1="0"
              x2="30"
              y1="3"
              y2="3"
              stroke={COLOURS[index % COLOURS.length]}
              strokeDasharray={STROKES[index % STROKES.length]}
              strokeWidth="2.4"
            />
          </svg>
          {zoneNamed(house, line.zone)?.name}{" "}
          <strong className="font-mono">{Math.round(levelAt(line.points, at))} %</strong>
        </span>
      ))}
      <span className="text-muted">shaded: dark outside</span>
    </p>
  );
}
