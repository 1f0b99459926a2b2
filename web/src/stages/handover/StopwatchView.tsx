import { useEffect, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { client, data } from "../../api/client";
import { putOver } from "../../api/entities";
import { useRehearsal } from "../../api/live";
import { useEdit } from "../../api/queries";
import type { Measurement, SeenIn, TimingLine } from "../../api/types";
import { deviceName, functionName, useRoom } from "../../shell/context";
import { useLetter } from "../../shell/useKeys";
import { Choice } from "../../ui/Choice";
import { ProblemNote } from "../../ui/Problem";
import { clockTime, seconds, spanText } from "../../ui/time";
import { Waiting } from "../../ui/Waiting";
import { useEffectOf, useKeepLap, useRoomPath, useStopwatch, useTakeOver } from "./api";
import { GapFinder } from "./GapFinder";
import { Strip } from "./Strip";

/** What a line is called in the address and in lists. */
export const lineKey = (line: TimingLine) => `${line.known.device} ${line.known.timing}`;

/** What an interval rests on, in words. */
function basisWords(line: TimingLine): string {
  const from = line.known.in_use?.basis;
  if (!from) return "no plan waits for it";
  switch (from.from) {
    case "measured":
      return `measured ${from.n} ×, ${line.known.in_use_percent ?? 0} %`;
    case "profile":
      return "from the profile";
    case "confirmed":
      return "confirmed by the device";
    case "assumed":
      return "only assumed";
  }
}

/** The stopwatch: what decides most verdicts first; the space bar starts and stops, laps follow each other. */
export function StopwatchView() {
  const stopwatch = useStopwatch();
  const [params, setParams] = useSearchParams();
  const [seen, setSeen] = useState<SeenIn>("rehearsed");
  const lines = stopwatch.data?.lines ?? [];
  const line = lines.find((known) => lineKey(known) === params.get("time")) ?? lines[0];
  if (!stopwatch.data) return <Waiting what="the stopwatch" error={stopwatch.error} />;
  const choose = (key: string) =>
    setParams((old) => {
      old.set("time", key);
      return old;
    });
  const { open, percent } = stopwatch.data;
  return (
    <div className="mt-3">
      <p className="mb-3 max-w-4xl text-muted">
        {open === 0
          ? "Every wait that a verdict of this room rests on is known well enough."
          : `${open} ${open === 1 ? "wait is" : "waits are"} only assumed, from a profile or measured too seldom. The one that decides most verdicts stands first; this house wants ${percent} %.`}
      </p>
      {!line ? (
        <p className="text-muted">
          Nothing in this room takes time that a plan would wait for. Add devices in Kit, and activities in
          Sequences.
        </p>
      ) : (
        <div className="grid gap-x-8 gap-y-4 xl:grid-cols-[1fr_340px]">
          <Watch key={lineKey(line) + seen} line={line} seen={seen} onSeen={setSeen} />
          <TimesList lines={lines} chosen={lineKey(line)} onChoose={choose} />
        </div>
      )}
      {stopwatch.data.gaps.length > 0 && <GapFinder gaps={stopwatch.data.gaps} />}
    </div>
  );
}

function TimesList({
  lines,
  chosen,
  onChoose,
}: {
  lines: TimingLine[];
  chosen: string;
  onChoose: (key: string) => void;
}) {
  const { house } = useRoom();
  return (
    <section aria-label="What can be timed">
      <h3 className="mb-1 text-[15px]">What can be timed</h3>
      <ul className="max-h-[46vh] overflow-auto border-t border-rule">
        {lines.map((line) => (
          <li key={lineKey(line)} className="border-b border-rule">
            <button
              type="button"
              aria-pressed={lineKey(line) === chosen}
              className={`w-full px-2 py-1.5 text-left hover:bg-soft ${lineKey(line) === chosen ? "bg-select" : ""}`}
              onClick={() => onChoose(lineKey(line))}
            >
              <span className="font-semibold">{deviceName(house, line.known.device)}</span>{" "}
              <span className="text-muted">{line.known.span}</span>
              <span className="block text-[13px] text-muted">
                {line.known.in_use ? spanText(line.known.in_use.lo_ms, line.known.in_use.hi_ms) : "–"},{" "}
                <span className={line.wait && !line.wait.rest.holds ? "text-caution" : ""}>
                  {basisWords(line)}
                </span>
                {line.wait &&
                  (line.wait.decides > 0
                    ? `; decides ${line.wait.decides} ${line.wait.decides === 1 ? "verdict" : "verdicts"}`
                    : `; in ${line.wait.needed_by} verdicts`)}
                {line.known.outside > 0 && (
                  <strong className="text-stop">; {line.known.outside} outside</strong>
                )}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The clock of a lap: of the room, or of the rehearsal room, which may run faster. */
function useLap(seen: SeenIn, now: () => number) {
  const [began, setBegan] = useState<number>();
  const [shown, setShown] = useState(0);
  const clock = useRef(now);
  useEffect(() => {
    clock.current = now;
  });
  useEffect(() => {
    if (began === undefined) return;
    const timer = setInterval(() => setShown(clock.current() - began), 50);
    return () => clearInterval(timer);
  }, [began]);
  return { began, setBegan, shown, setShown, seen };
}

function Watch({ line, seen, onSeen }: { line: TimingLine; seen: SeenIn; onSeen: (seen: SeenIn) => void }) {
  const { house } = useRoom();
  const params = useRoomPath();
  const view = useRehearsal(params.path.house, params.path.room);
  const keep = useKeepLap();
  const [trouble, setTrouble] = useState<string>();
  const { known } = line;
  const today = useNow();
  // The clock of the rehearsal room between two of its views goes on at its rate.
  const last = useRef({ now: 0, at: 0, rate: 1 });
  useEffect(() => {
    if (view) last.current = { now: view.now_ms, at: performance.now(), rate: view.rate };
  }, [view]);
  const now = () =>
    seen === "house"
      ? performance.now()
      : last.current.now + (performance.now() - last.current.at) * last.current.rate;
  const lap = useLap(seen, now);
  const device = view?.devices.find((own) => own.device === known.device);
  const readings = house.measurements.filter(
    (own) => own.device === known.device && own.timing === known.timing,
  );
  const running = lap.began !== undefined;
  const begin = async () => {
    setTrouble(undefined);
    const rest = leftS(line.rests_until, Date.now());
    if (seen === "house" && rest > 0) {
      setTrouble(
        `The motor has run for 4 minutes. Let it rest for ${Math.ceil(rest / 60)} min: its thermal stop would falsify the readings (common practice).`,
      );
      return;
    }
    try {
      if (seen === "rehearsed") {
        const body = { device: known.device, timing: known.timing };
        const fresh = await data(
          client.POST("/api/houses/{house}/rooms/{room}/stopwatch/begin", { params, body }),
        );
        last.current = { now: fresh.now_ms, at: performance.now(), rate: fresh.rate };
      }
      lap.setShown(0);
      lap.setBegan(now());
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : "The lap could not begin. Try again.");
    }
  };
  const end = (timedOut: boolean) => {
    if (lap.began === undefined) {
      setTrouble("The stopwatch is not running. Start it first: space bar, or the button.");
      return;
    }
    const ms = Math.round(now() - lap.began);
    lap.setBegan(undefined);
    lap.setShown(ms);
    if (ms < 1 || ms > 600_000) {
      setTrouble("A reading lies between a moment and 10 minutes; this one was not kept. Measure again.");
      return;
    }
    keep.mutate({ device: known.device, timing: known.timing, ms, timed_out: timedOut, seen });
  };
  const toggle = () => (running ? end(false) : void begin());
  useLetter(" ", toggle);
  const laps = readings.filter((own) => own.seen === seen).length;
  const hotS = seen === "house" ? leftS(line.hot_until, today) : 0;
  const restS = seen === "house" ? leftS(line.rests_until, today) : 0;
  return (
    <section aria-label={`Stopwatch of ${deviceName(house, known.device)}`}>
      <div className="flex flex-wrap items-start gap-x-6 gap-y-3">
        <div className="min-w-[190px]">
          <p className="text-[16px]">
            <strong>{deviceName(house, known.device)}</strong>
          </p>
          <p className="text-muted">{known.span}</p>
          <p className="my-1 font-mono text-[44px] leading-none" data-testid="lap-clock">
            {clockTime(lap.shown)}
          </p>
          <button
            type="button"
            className="btn btn-main min-h-11 max-md:min-h-24 max-md:w-full max-md:justify-center max-md:text-[22px]"
            onClick={toggle}
          >
            {running ? "Stop" : "Start"}
            <span className="kbd text-on-accent max-md:hidden">Space</span>
          </button>
          {running && (
            <button type="button" className="btn ml-2 min-h-11" onClick={() => end(true)}>
              Nothing seen
            </button>
          )}
          <p className="mt-2 text-muted">
            lap {laps + 1}
            {line.starts && ` · ${functionName(house, known.device, line.starts)}`}
          </p>
          {hotS > 0 && !running && (
            <p className="max-w-[190px] text-caution">Still cooling for {hotS} s: a lap now counts as hot.</p>
          )}
          {restS > 0 && !running && (
            <p className="max-w-[190px] text-caution">Its motor rests for {Math.ceil(restS / 60)} min.</p>
          )}
        </div>
        <div className="min-w-0 flex-1 basis-[330px]">
          <Strip readings={readings} known={known} />
          <Says line={line} seen={seen} />
        </div>
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <div role="group" aria-label="Where it is timed" className="flex gap-1">
          {(["rehearsed", "house"] as const).map((where) => (
            <button
              key={where}
              type="button"
              aria-pressed={seen === where}
              className={`btn ${seen === where ? "bg-select" : ""}`}
              onClick={() => onSeen(where)}
            >
              {where === "house" ? "In the house" : "In the rehearsal room"}
            </button>
          ))}
        </div>
        {seen === "rehearsed" && <Pace rate={view?.rate ?? 1} />}
      </div>
      <p className="mt-2 max-w-3xl text-muted">
        {seen === "house" ? (
          <>
            Press <kbd className="kbd">Space</kbd> at the same moment as the key on the handset, and again
            when {line.look_for}. A reading by hand is right to 0.3 s.
          </>
        ) : (
          <>
            The rehearsal room answers, at its own pace: stop when {line.look_for}.{" "}
            {running && device && (
              <strong data-testid="rehearsed-state">{device.doing ?? POWER[device.power]}</strong>
            )}{" "}
            What is rehearsed covers nothing.
          </>
        )}
      </p>
      {line.care && (
        <p className="mt-1 max-w-3xl text-caution">
          {line.care}
          {line.strikes > 0 &&
            ` So far ${line.strikes} ${line.strikes === 1 ? "start was" : "starts were"} timed.`}
        </p>
      )}
      {(trouble ?? keep.error?.message) && <ProblemNote text={trouble ?? keep.error?.message ?? ""} />}
      <Readings readings={readings} />
    </section>
  );
}

/** The time of day in ms, a new one each second. */
function useNow() {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, []);
  return now;
}

/** How long it is until then, in s; 0 where that has passed, or nothing waits. */
export const leftS = (until: string | null | undefined, now: number) =>
  until ? Math.max(0, Math.ceil((Date.parse(until) - now) / 1000)) : 0;

const POWER: Record<string, string> = {
  off: "It is off.",
  starting: "It is starting up.",
  on: "It is on.",
  cooling: "It is off and cooling.",
  always: "It is on.",
};

/** How fast the rehearsal room goes. */
function Pace({ rate }: { rate: number }) {
  const params = useRoomPath();
  const set = (value: string) =>
    void data(
      client.POST("/api/houses/{house}/rooms/{room}/rehearsal/rate", {
        params,
        body: { rate: Number(value) },
      }),
    );
  return (
    <Choice
      label="Pace of the rehearsal room"
      className="w-44"
      value={String(rate)}
      options={[
        { value: "1", label: "real time" },
        { value: "5", label: "5 × faster" },
        { value: "20", label: "20 × faster" },
      ]}
      onChange={set}
    />
  );
}

/** What the readings say, and what taking them over would change. */
function Says({ line, seen }: { line: TimingLine; seen: SeenIn }) {
  const { house } = useRoom();
  const rehearsed = seen === "rehearsed";
  const known = rehearsed ? line.rehearsed : line.known;
  const effect = useEffectOf(
    known.device,
    known.timing,
    rehearsed,
    known.proposal !== null && known.in_use !== null,
  );
  const take = useTakeOver();
  const hot = house.measurements.filter(
    (own) => own.device === known.device && own.timing === known.timing && own.seen === seen && own.hot,
  ).length;
  if (known.n === 0) {
    return (
      <p className="mt-1 max-w-3xl text-muted">
        No reading {rehearsed ? "in the rehearsal room" : "in the house"} yet.{" "}
        {known.more.map((one) => `${one.more} for ${one.percent} %`).join(", ")}.
      </p>
    );
  }
  const end =
    known.ends === "shortest"
      ? `no shorter than ${seconds(known.proposal?.lo_ms ?? 0)}`
      : known.ends === "both"
        ? `between ${spanText(known.proposal?.lo_ms ?? 0, known.proposal?.hi_ms ?? 0)}`
        : `no longer than ${seconds(known.proposal?.hi_ms ?? 0)}`;
  const wanted = known.more.filter((one) => one.more > 0);
  const same =
    known.in_use?.basis.from === "measured" &&
    known.proposal?.lo_ms === known.in_use.lo_ms &&
    known.proposal.hi_ms === known.in_use.hi_ms;
  return (
    <div className="mt-1 max-w-3xl">
      <p data-testid="readings-say">
        {known.n} {known.n === 1 ? "reading" : "readings"}
        {hot > 0 && ` (and ${hot} hot ${hot === 1 ? "one" : "ones"} beside)`}
        {known.out > 0 && `, ${known.out} of them left out`}: the next one is {end} in{" "}
        <strong>{known.percent} %</strong> of cases{rehearsed && " – if these had been taken in the house"}.{" "}
        <span className="text-muted">
          {wanted.map((one) => `${one.more} more for ${one.percent} %`).join(", ")}
        </span>
      </p>
      {effect.data && (
        <p className={rehearsed ? "text-muted" : ""} data-testid="would-change">
          {effect.data.words.join(" ")}
        </p>
      )}
      {effect.data && effect.data.changes.length > 0 && (
        <details className="mt-1">
          <summary className="text-muted">Which verdicts</summary>
          <ul>
            {effect.data.changes.map((change) => (
              <li key={change.what}>
                <strong>{change.what}</strong>: {change.before}
                {change.after !== change.before && ` → ${change.after}`}
              </li>
            ))}
          </ul>
        </details>
      )}
      {!rehearsed && known.proposal && known.in_use && (
        <p className="mt-2">
          <button
            type="button"
            className="btn btn-main"
            disabled={take.isPending || same}
            onClick={() => take.mutate({ device: known.device, timing: known.timing })}
          >
            Take {spanText(known.proposal.lo_ms, known.proposal.hi_ms)} over
          </button>{" "}
          <span className="text-muted">
            {same
              ? `is in use, on ${deviceName(house, known.device)} alone`
              : `for ${deviceName(house, known.device)} alone; its model stays as it is`}
          </span>
        </p>
      )}
      {take.error && <ProblemNote text={take.error.message} />}
    </div>
  );
}

/** Every reading, the newest first; one that went wrong is struck with a reason. */
function Readings({ readings }: { readings: readonly Measurement[] }) {
  const { house } = useRoom();
  const edit = useEdit(house.house.id);
  const [striking, setStriking] = useState<string>();
  const [reason, setReason] = useState("");
  if (readings.length === 0) return null;
  const strike = (own: Measurement, struck: string | null) =>
    edit.mutate([putOver(house, { entity: "measurement", value: { ...own, struck } })], {
      onSuccess: () => {
        setStriking(undefined);
        setReason("");
      },
    });
  return (
    <details className="mt-3">
      <summary>
        {readings.length} {readings.length === 1 ? "reading" : "readings"}, one by one
      </summary>
      <ul className="max-w-3xl" aria-label="Readings">
        {[...readings].reverse().map((own) => (
          <li key={own.id} className="flex flex-wrap items-center gap-x-3 border-b border-rule py-1">
            <span className={`w-20 font-mono ${own.struck ? "line-through" : ""}`}>{seconds(own.ms)}</span>
            <span className="text-muted">
              {own.seen === "rehearsed" ? "rehearsed" : "in the house"}
              {own.hot && ", hot"}
              {own.timed_out && ", nothing seen until then"}
              {own.burst && `, ${own.burst.counted} of ${own.burst.sent} presses`}
              {own.by_way && `, ${own.by_way}`}
              {own.who && `, ${own.who}`}
              {own.struck && `; struck: ${own.struck}`}
            </span>
            {own.struck ? (
              <button type="button" className="link ml-auto" onClick={() => strike(own, null)}>
                Count it again
              </button>
            ) : striking === own.id ? (
              <form
                className="ml-auto flex gap-2"
                onSubmit={(event) => {
                  event.preventDefault();
                  if (reason.trim()) strike(own, reason.trim());
                }}
              >
                <input
                  autoFocus
                  className="field w-52"
                  aria-label="Why it is struck"
                  placeholder="Why: the door was open …"
                  maxLength={80}
                  value={reason}
                  onChange={(event) => setReason(event.target.value)}
                />
                <button type="submit" className="btn" disabled={!reason.trim()}>
                  Strike
                </button>
              </form>
            ) : (
              <button type="button" className="link ml-auto" onClick={() => setStriking(own.id)}>
                Strike …
              </button>
            )}
          </li>
        ))}
      </ul>
      {edit.error && <ProblemNote text={edit.error.message} />}
    </details>
  );
}
