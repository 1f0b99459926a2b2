import { RotateCcw, Undo2 } from "lucide-react";
import { useState } from "react";
import { useExploration } from "../../api/queries";
import type { Device } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { seconds } from "../../ui/time";
import { Waiting } from "../../ui/Waiting";

const WAITS = [0, 300, 1_000, 5_000, 30_000, 120_000];

/** The machine that the profile makes: its states, and keys to press on it and watch. */
export function Machine({ device }: { device: Device }) {
  const { house } = useRoom();
  const [start, setStart] = useState("any");
  const [keys, setKeys] = useState<{ function: string; wait_ms: number }[]>([]);
  const [wait, setWait] = useState("1000");
  const from = start === "any" ? null : Number(start);
  const machine = useExploration(house.house.id, device.id, from, keys, house.revision);
  if (!machine.data) return <Waiting what="the machine" error={machine.error} />;
  const { states, steps, ends, settles_ms } = machine.data;
  if (machine.data.keys.length === 0)
    return (
      <p className="py-2 text-muted">No key switches {device.name}, so there is nothing to press here.</p>
    );
  return (
    <div className="max-w-[980px]">
      <p className="text-muted">
        {device.name} has {states.length} {states.length === 1 ? "state" : "states"} in which nothing is under
        way. Press its keys and see what it may be in: what would happen, not what is sent.
      </p>
      <div className="mt-2 flex flex-wrap items-end gap-2">
        <div>
          <span className="label">It starts</span>
          <Choice
            label="It starts"
            className="w-72"
            value={start}
            onChange={(value) => {
              setStart(value);
              setKeys([]);
            }}
            options={[
              { value: "any", label: "in any of them" },
              ...states.map((state, index) => ({ value: String(index), label: state })),
            ]}
          />
        </div>
        <div>
          <span className="label">Pause before each key</span>
          <Choice
            label="Pause before each key"
            className="w-32"
            value={wait}
            onChange={setWait}
            options={WAITS.map((ms) => ({ value: String(ms), label: ms === 0 ? "none" : seconds(ms) }))}
          />
        </div>
        <button
          type="button"
          className="btn"
          disabled={keys.length === 0}
          onClick={() => setKeys(keys.slice(0, -1))}
        >
          <Undo2 aria-hidden size={15} /> Last key back
        </button>
        <button type="button" className="btn" disabled={keys.length === 0} onClick={() => setKeys([])}>
          <RotateCcw aria-hidden size={15} /> From the start
        </button>
      </div>
      <div className="mt-2 flex flex-wrap gap-1.5" role="group" aria-label={`Keys of ${device.name}`}>
        {machine.data.keys.map((key) => (
          <button
            key={key.function}
            type="button"
            className="btn"
            title={key.part}
            disabled={keys.length >= 40}
            onClick={() => setKeys([...keys, { function: key.function, wait_ms: Number(wait) }])}
          >
            {key.name}
          </button>
        ))}
      </div>
      <div className="scrolls">
        <table className="mt-3 w-full border-collapse">
          <thead>
            <tr className="border-b border-ink text-[13.5px] text-muted">
              <th scope="col" className="w-32 py-1 pr-3 font-medium">
                Key
              </th>
              <th scope="col" className="w-64 py-1 pr-3 font-medium">
                What it made of it
              </th>
              <th scope="col" className="py-1 font-medium">
                What it may be in now
              </th>
            </tr>
          </thead>
          <tbody aria-live="polite">
            {steps.map((step, index) => (
              <tr key={index} className="border-b border-rule align-top">
                <td className="py-1 pr-3 font-semibold">{step.name}</td>
                <td className="py-1 pr-3">{step.reactions.join("; ")}</td>
                <td className="py-1">
                  <Few states={step.states} />
                </td>
              </tr>
            ))}
            <tr className="border-b border-rule align-top">
              <td className="py-1 pr-3 text-muted" colSpan={2}>
                {settles_ms > 0
                  ? `once it has settled, after ${seconds(settles_ms)} at the latest`
                  : "as it stands"}
              </td>
              <td className={`py-1 ${ends.length === 1 ? "font-semibold text-good" : ""}`}>
                <Few states={ends} />
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </div>
  );
}

/** Up to eight states, and how many more. */
function Few({ states }: { states: string[] }) {
  return (
    <ul>
      {states.slice(0, 8).map((state) => (
        <li key={state}>{state}</li>
      ))}
      {states.length > 8 && <li className="text-muted">and {states.length - 8} more</li>}
    </ul>
  );
}
