import { Download } from "lucide-react";
import { useState } from "react";
import type { RehearsalView, WireLine } from "../../api/types";
import { deviceName, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { clockTime } from "../../ui/time";
import { mediumName } from "../kit/words";

const DIRECTION = { out: "→", in: "←", hand: "hand" } as const;
const SAID = { out: "to the device", in: "from the device", hand: "by hand" } as const;

/** What went over the wires, the newest first: filtered, and saved as CSV. */
export function WireLog({ view }: { view: RehearsalView }) {
  const { house, devices } = useRoom();
  const [device, setDevice] = useState("all");
  const [words, setWords] = useState("");
  const [routine, setRoutine] = useState(false);
  const wanted = words.trim().toLowerCase();
  const lines = [...view.wire].reverse().filter((line) => {
    if (line.routine && !routine) return false;
    const about = line.device === device || line.heard.some((one) => one.device === device);
    if (device !== "all" && !about) return false;
    return wanted === "" || `${line.meaning} ${line.bytes}`.toLowerCase().includes(wanted);
  });
  return (
    <>
      <div className="mt-4 flex flex-wrap items-center gap-2">
        <h3 className="text-[16px]">
          Wire log <span className="text-[13px] font-normal text-muted">gateway at {view.gateway}</span>
        </h3>
        <div className="ml-auto flex flex-wrap items-center gap-2">
          <Choice
            label="Device"
            className="w-44"
            value={device}
            onChange={setDevice}
            options={[
              { value: "all", label: "Every device" },
              ...devices.map((known) => ({ value: known.id, label: known.name })),
            ]}
          />
          <input
            className="field w-40"
            aria-label="Words in the log"
            placeholder="Words"
            value={words}
            onChange={(event) => setWords(event.target.value)}
          />
          <label className="flex min-h-8 items-center gap-1.5">
            <input type="checkbox" checked={routine} onChange={(event) => setRoutine(event.target.checked)} />
            Polls too
          </label>
          <a
            className="btn"
            href={`/api/houses/${house.house.id}/rooms/${view.room}/rehearsal/wire`}
            download="wire-log.csv"
          >
            <Download aria-hidden size={14} /> CSV
          </a>
        </div>
      </div>
      {lines.length === 0 ? (
        <p className="mt-1 border-t border-ink py-2 text-muted">
          {view.wire.length === 0
            ? "Nothing has been sent yet."
            : "No line fits; show polls too, or every device."}
        </p>
      ) : (
        <div className="scrolls">
          <table className="w-full border-collapse" aria-label="Wire log">
            <WireHead />
            <tbody>
              {lines.map((line) => (
                <WireRow key={line.number} line={line} />
              ))}
            </tbody>
          </table>
        </div>
      )}
    </>
  );
}

/** The columns of the log. */
function WireHead() {
  return (
    <thead>
      <tr className="border-b border-ink text-[13.5px] text-muted">
        <th scope="col" className="w-20 py-1 pr-4 text-right font-medium">
          At
        </th>
        <th scope="col" className="w-10 py-1 pr-3 font-medium">
          Way
        </th>
        <th scope="col" className="py-1 pr-3 font-medium">
          Device
        </th>
        <th scope="col" className="py-1 pr-3 font-medium">
          By
        </th>
        <th scope="col" className="py-1 pr-3 font-medium">
          What it says
        </th>
        <th scope="col" className="py-1 pr-4 text-right font-medium">
          Length
        </th>
        <th scope="col" className="py-1 font-medium">
          Who understood it, and what they did
        </th>
      </tr>
    </thead>
  );
}

/** One line of the log. */
function WireRow({ line }: { line: WireLine }) {
  const { house } = useRoom();
  return (
    <tr className="border-b border-rule align-top">
      <td className="py-1 pr-4 text-right font-mono">{clockTime(line.at_ms)}</td>
      <td className="py-1 pr-3">
        <span aria-hidden>{DIRECTION[line.direction]}</span>
        <span className="sr-only">{SAID[line.direction]}</span>
      </td>
      <td className="py-1 pr-3 whitespace-nowrap">{line.device ? deviceName(house, line.device) : "all"}</td>
      <td className="py-1 pr-3 whitespace-nowrap">{line.medium ? mediumName(line.medium) : "–"}</td>
      <td className="max-w-[28rem] py-1 pr-3 font-mono text-[13px] break-words" title={line.bytes}>
        {line.meaning}
      </td>
      <td className="py-1 pr-4 text-right whitespace-nowrap">
        {line.length_ms > 0 ? `${line.length_ms} ms` : "–"}
      </td>
      <td className="py-1">
        {line.heard.length === 0 && line.durations > 0 && <span className="text-stop">nobody</span>}
        {line.heard.map((one) => (
          <span key={one.device} className="block">
            {deviceName(house, one.device)}, {one.name}:{" "}
            {one.outcome.did !== "ignored" ? (
              one.outcome.what
            ) : (
              <span className="text-caution">ignored, {one.outcome.why}</span>
            )}
          </span>
        ))}
      </td>
    </tr>
  );
}
