import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, data } from "../../api/client";
import type { Outcome, TestLine, TestState } from "../../api/types";
import { useRoom } from "../../shell/context";
import { ProblemNote } from "../../ui/Problem";
import { FileButton } from "../../ui/FileButton";
import { dayTime } from "../../ui/when";
import { Waiting } from "../../ui/Waiting";
import { useRehearseTest, useRoomPath, useTests, useWriteDown } from "./api";
import { useOutbox } from "./outbox";
import { RoundPart } from "./RoundPart";

const STATE: Record<TestState, [string, string]> = {
  failed: ["failed", "text-stop font-semibold"],
  stale: ["stale", "text-caution font-semibold"],
  open: ["open", "text-muted"],
  rehearsed: ["rehearsed", "text-muted"],
  "not-possible": ["not possible here", "text-muted"],
  passed: ["passed", "text-good font-semibold"],
};

const FILTERS: readonly (readonly [string, string, (line: TestLine) => boolean])[] = [
  ["left", "Left to do", (line) => line.state !== "passed" && line.state !== "not-possible"],
  ["failed", "Failed", (line) => line.state === "failed"],
  ["stale", "Stale", (line) => line.state === "stale"],
  ["all", "All", () => true],
];

/** 3700 s → "1 h 2 min". */
export function long(s: number): string {
  if (s < 60) return `${s} s`;
  const [hours, minutes] = [Math.floor(s / 3600), Math.round((s % 3600) / 60)];
  return hours > 0 ? `${hours} h ${minutes} min` : `${minutes} min`;
}

const keyOf = (line: TestLine) => JSON.stringify(line.of);

/** The list of tests: what the house asks for, how each stands, and one at a time with big keys. */
export function TestsView() {
  const { house, room } = useRoom();
  const tests = useTests();
  const write = useWriteDown();
  const [filter, setFilter] = useState("left");
  const [kind, setKind] = useState("");
  const [chosen, setChosen] = useState<string>();
  const outbox = useOutbox(house.house.id, room, (seen) => write.mutateAsync(seen));
  if (!tests.data) return <Waiting what="the tests" error={tests.error} />;
  const { lines, done, round, visit_s } = tests.data;
  const fits = FILTERS.find(([name]) => name === filter)?.[2] ?? (() => true);
  const shown = lines.filter((line) => fits(line) && (kind === "" || line.kind === kind));
  const kinds = [...new Set(lines.map((line) => line.kind))];
  const at = lines.findIndex((line) => keyOf(line) === chosen);
  const line = lines[at];
  const next = () => {
    const after = [...lines.slice(at + 1), ...lines.slice(0, at)].find(
      (one) => FILTERS[0]?.[2](one) && (kind === "" || one.kind === kind),
    );
    setChosen(after && keyOf(after));
  };
  const say = (outcome: Outcome, note: string, photo: string | null) => {
    if (!line) return;
    outbox.add({
      of: line.of,
      outcome,
      note,
      photo,
      known: line.result?.at ?? null,
      at: new Date().toISOString(),
    });
    next();
  };
  return (
    <div className="mt-3">
      <p className="mb-2" data-testid="tests-sum">
        <strong>
          {done} of {lines.length}
        </strong>{" "}
        tests are done.{" "}
        <span className="text-muted">
          {visit_s > 0 ? `What is left takes ${long(visit_s)}.` : "Nothing is left to do here."}
        </span>
      </p>
      {outbox.waiting.length > 0 && (
        <p role="status" className="mb-2 border-l-4 border-caution bg-soft px-3 py-2">
          {outbox.waiting.length} {outbox.waiting.length === 1 ? "result waits" : "results wait"} on this
          device and will be sent when the server is back. Leave this page open, or come back to it.
        </p>
      )}
      {outbox.refused && <ProblemNote text={outbox.refused} />}
      {round && <RoundPart round={round} lines={lines} />}
      <div className="my-2 flex flex-wrap items-center gap-2">
        <div role="group" aria-label="Which tests" className="flex flex-wrap gap-1">
          {FILTERS.map(([name, label, own]) => (
            <button
              key={name}
              type="button"
              aria-pressed={filter === name}
              className={`btn ${filter === name ? "bg-select" : ""}`}
              onClick={() => setFilter(name)}
            >
              {label} <span className="text-muted">{lines.filter(own).length}</span>
            </button>
          ))}
        </div>
        <select
          aria-label="Kind of test"
          className="field w-44"
          value={kind}
          onChange={(event) => setKind(event.target.value)}
        >
          <option value="">every kind</option>
          {kinds.map((one) => (
            <option key={one} value={one}>
              {one}
            </option>
          ))}
        </select>
        <RehearseAll lines={shown} />
      </div>
      {line ? (
        <OneTest
          key={keyOf(line)}
          line={line}
          onSay={say}
          onNext={next}
          onClose={() => setChosen(undefined)}
        />
      ) : (
        <TestTable lines={shown} onChoose={(one) => setChosen(keyOf(one))} />
      )}
    </div>
  );
}

function TestTable({ lines, onChoose }: { lines: TestLine[]; onChoose: (line: TestLine) => void }) {
  if (lines.length === 0)
    return <p className="text-muted">No test of this kind. Choose another one above.</p>;
  return (
    <div className="scrolls">
      <table className="w-full border-collapse" aria-label="Tests">
        <thead className="sticky top-0 bg-paper">
          <tr className="border-b border-edge text-[13px] text-muted">
            <th className="py-1 pr-3">What</th>
            <th className="py-1 pr-3 max-md:hidden">Kind</th>
            <th className="py-1 pr-3 max-md:hidden">What must be seen</th>
            <th className="py-1 pr-3">Stands</th>
            <th className="py-1 max-md:hidden">Why, or when</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <tr key={keyOf(line)} className="border-b border-rule align-top">
              <td className="py-1 pr-3">
                <button
                  type="button"
                  className="text-left font-semibold hover:underline"
                  onClick={() => onChoose(line)}
                >
                  {line.title}
                </button>
              </td>
              <td className="py-1 pr-3 text-muted max-md:hidden">{line.kind}</td>
              <td className="py-1 pr-3 max-md:hidden">{line.to_see}</td>
              <td className={`py-1 pr-3 whitespace-nowrap ${STATE[line.state][1]}`}>
                {STATE[line.state][0]}
              </td>
              <td className="py-1 text-muted max-md:hidden">{why(line)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Why a test stands as it does. */
function why(line: TestLine): string {
  if (line.state === "stale") return line.because.join("; ");
  if (!line.result) return line.fits_in ? "fits into a wait" : "";
  const note = line.result.note ? `${line.result.note} ` : "";
  return `${note}${line.result.who}, ${dayTime(line.result.at)}`;
}

/** One test at a time, with big keys. */
function OneTest({
  line,
  onSay,
  onNext,
  onClose,
}: {
  line: TestLine;
  onSay: (outcome: Outcome, note: string, photo: string | null) => void;
  onNext: () => void;
  onClose: () => void;
}) {
  const [asks, setAsks] = useState<Outcome>();
  const [note, setNote] = useState("");
  const rehearse = useRehearseTest();
  const photo = usePhoto();
  const big = "btn min-h-14 flex-1 justify-center text-[17px] max-md:min-h-16";
  const wait = line.of.test === "wait";
  return (
    <section aria-label={line.title} className="max-w-2xl border border-edge p-4">
      <p className="text-[13px] text-muted">
        {line.kind}, about {long(line.takes_s)} ·{" "}
        <span className={STATE[line.state][1]}>{STATE[line.state][0]}</span>
      </p>
      <h3 className="text-[19px]">{line.title}</h3>
      <p className="mt-2 text-[16px]">{line.to_do}</p>
      <p className="mt-1 text-[16px]">
        <span className="text-muted">Must be seen:</span> <strong>{line.to_see}</strong>
      </p>
      {line.care && <p className="mt-2 border-l-4 border-caution pl-2 text-caution">{line.care}</p>}
      {line.state === "stale" && <p className="mt-2 text-caution">Stale: {line.because.join("; ")}.</p>}
      {line.result && (
        <p className="mt-2 text-muted">
          Last: {line.result.outcome === "not-possible" ? "not possible here" : line.result.outcome}
          {line.result.seen === "rehearsed" && ", rehearsed"}. {line.result.note} {line.result.who},{" "}
          {dayTime(line.result.at)}.
        </p>
      )}
      {line.result?.photo && <Photo id={line.result.photo} />}
      {asks ? (
        <form
          className="mt-3"
          onSubmit={(event) => {
            event.preventDefault();
            if (note.trim()) onSay(asks, note.trim(), photo.id);
          }}
        >
          <label className="label" htmlFor="test-note">
            {asks === "failed" ? "What was seen instead" : "Why it is not possible here"}
          </label>
          <textarea
            id="test-note"
            autoFocus
            className="field min-h-20"
            maxLength={2000}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
          <div className="mt-2 flex flex-wrap gap-2">
            <button type="submit" className="btn btn-main" disabled={!note.trim()}>
              Write it down
            </button>
            <FileButton
              label="Photo of what was seen"
              accept="image/png,image/jpeg,image/webp"
              onFile={photo.add}
            >
              {photo.id ? "Another photo …" : "Photo …"}
            </FileButton>
            <button type="button" className="btn" onClick={() => setAsks(undefined)}>
              Back
            </button>
          </div>
          {photo.trouble && <ProblemNote text={photo.trouble} />}
          {photo.id && <p className="text-muted">The photo goes with it.</p>}
        </form>
      ) : (
        <div className="mt-3 flex gap-2 max-md:flex-col">
          {!wait && (
            <button type="button" className={`${big} btn-main`} onClick={() => onSay("passed", "", null)}>
              Passed
            </button>
          )}
          <button type="button" className={big} onClick={() => setAsks("failed")}>
            Failed …
          </button>
          <button type="button" className={big} onClick={() => setAsks("not-possible")}>
            Not possible here …
          </button>
        </div>
      )}
      <div className="mt-3 flex flex-wrap gap-2">
        {line.rehearsable && (
          <button
            type="button"
            className="btn"
            disabled={rehearse.isPending}
            onClick={() => rehearse.mutate(line.of)}
          >
            {rehearse.isPending ? "Trying …" : "Try it in the rehearsal room"}
          </button>
        )}
        <button type="button" className="btn" onClick={onNext}>
          Next test
        </button>
        <button type="button" className="btn" onClick={onClose}>
          Back to the list
        </button>
      </div>
      {rehearse.error && <ProblemNote text={rehearse.error.message} />}
      {line.state === "failed" && <Causes line={line} />}
    </section>
  );
}

/** What is likeliest behind a test that failed, and where to look. */
function Causes({ line }: { line: TestLine }) {
  const { house, room } = useRoom();
  const params = useRoomPath();
  const of = line.of;
  const to = of.test === "switch" ? of.to : null;
  // What the engine weighs for this switch, or for this device.
  const weighed = useQuery({
    queryKey: ["house", house.house.id, "service", room, "test", of, house.revision],
    queryFn: () =>
      data(client.POST("/api/houses/{house}/rooms/{room}/service", { params, body: { to, answers: {} } })),
    enabled: of.test === "switch" || of.test === "function" || of.test === "in-step",
  });
  const device = "device" in of ? of.device : undefined;
  const engine = (weighed.data?.causes ?? [])
    .filter((cause) => cause.device && (device === undefined || cause.device === device))
    .slice(0, 3)
    .map((cause) => `${cause.text} ${cause.remedy}`);
  const causes = [
    ...engine,
    ...(CAUSES[line.kind] ?? ["Look at what the test rests on, one after another."]),
  ];
  return (
    <div className="mt-3">
      <h4 className="text-[14px]">Look at this first</h4>
      <ol className="list-decimal pl-5">
        {causes.map((cause) => (
          <li key={cause}>{cause}</li>
        ))}
      </ol>
      <p className="mt-1 text-muted">Service call asks what is seen, and weighs more of them.</p>
    </div>
  );
}

/** By how often they are met (common practice). */
const CAUSES: Record<string, string[]> = {
  function: [
    "The emitter or its line of sight: a shut door, a moved device.",
    "The code: learn the key again in Codes, and compare.",
    "The device was busy: it starts up, cools, or its list was open.",
  ],
  switch: [
    "A press was lost on the way: run it again and count.",
    "A wait is too short here: time it with the stopwatch.",
    "Somebody touched a device before: start from off, settled.",
  ],
  cue: [
    "Its condition did not hold: clock, darkness, a mode switch.",
    "Another cue set the same zone after it.",
  ],
  "surface key": ["The phone is on another network.", "The key means something else in this activity."],
  "in step": ["The device does not answer at its address.", "It is asked too seldom: see In step."],
  safety: [
    "Stop: is its code learned, and in sight?",
    "Leave it off until it is safe; defer to licensed practice.",
  ],
};

function Photo({ id }: { id: string }) {
  const { house } = useRoom();
  return (
    <img
      src={`/api/houses/${house.house.id}/photos/${id}`}
      alt="What was seen"
      className="mt-2 max-h-60 border border-rule"
    />
  );
}

/** A photo of what was seen; kept at once, named by the result. */
function usePhoto() {
  const { house } = useRoom();
  const [id, setId] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<string>();
  const add = async (file: File) => {
    setTrouble(undefined);
    try {
      const answer = await fetch(`/api/houses/${house.house.id}/photos`, {
        method: "POST",
        headers: { "content-type": file.type },
        body: file,
      });
      const told = (await answer.json()) as { id?: string; detail?: string };
      if (!answer.ok || !told.id) throw new Error(told.detail ?? "The photo was not taken.");
      setId(told.id);
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : "The photo was not taken. Try a smaller one.");
    }
  };
  return { id, trouble, add: (file: File) => void add(file) };
}

/** Everything that the rehearsal room can do by itself, one after another. */
function RehearseAll({ lines }: { lines: TestLine[] }) {
  const { say } = useRoom();
  const rehearse = useRehearseTest();
  const [left, setLeft] = useState<number>();
  const todo = lines.filter((line) => line.rehearsable && (line.state === "open" || line.state === "stale"));
  if (todo.length === 0) return null;
  const go = async () => {
    let tried = 0;
    for (const [at, line] of todo.entries()) {
      setLeft(todo.length - at);
      try {
        await rehearse.mutateAsync(line.of);
        tried += 1;
      } catch {
        // What could not be tried stays open; the next one is tried all the same.
      }
    }
    setLeft(undefined);
    const not = todo.length - tried;
    const says = `${tried} ${tried === 1 ? "test was" : "tests were"} tried in the rehearsal room`;
    say(not > 0 ? `${says}; ${not} could not be and ${not === 1 ? "stays" : "stay"} open` : says);
  };
  return (
    <button type="button" className="btn ml-auto" disabled={left !== undefined} onClick={() => void go()}>
      {left === undefined ? `Try ${todo.length} in the rehearsal room` : `${left} to go …`}
    </button>
  );
}
