import { useEffect, useRef, useState } from "react";
import { client, data } from "../../api/client";
import { useHouseOff } from "../../api/queries";
import { deviceName, useRoom } from "../../shell/context";
import { clockTime, readyTime } from "../../ui/time";
import { Waiting } from "../../ui/Waiting";

/** The whole house: everything off but the rooms excepted, and the proof of all rooms. */
export function OffView() {
  const { house } = useRoom();
  const [except, setExcept] = useState<string[]>([]);
  const plan = useHouseOff(house.house.id, except);
  const rooms = house.rooms.filter((room) => !room.rack);
  return (
    <div className="max-w-[900px]">
      <h3 className="text-[16px]">Everything off</h3>
      <div className="my-1 flex flex-wrap gap-x-5">
        {rooms.map((room) => (
          <label key={room.id} className="flex min-h-8 items-center gap-2">
            <input
              type="checkbox"
              className="size-4"
              checked={!except.includes(room.id)}
              onChange={(event) =>
                setExcept(event.target.checked ? except.filter((id) => id !== room.id) : [...except, room.id])
              }
            />
            {room.name}
          </label>
        ))}
      </div>
      {!plan.data ? (
        <Waiting what="the plan" error={plan.error} />
      ) : (
        <div className={plan.isPlaceholderData ? "opacity-60" : ""}>
          <p>
            {plan.data.steps.length} transmissions, all off after {readyTime(plan.data.ready_ms)}; one device
            after another it would take {clockTime(plan.data.sequential_ms)}. Rooms do not wait for each
            other’s infrared; radio is one medium for the house.
          </p>
          {plan.data.findings
            .filter((finding) => finding.weight === "stops")
            .map((finding) => (
              <p key={finding.text} className="text-stop">
                {finding.text}
              </p>
            ))}
          <div className="scrolls">
            <table className="mt-1 border-collapse">
              <tbody>
                {plan.data.steps.map((step) => (
                  <tr key={step.index} className="border-b border-rule">
                    <td className="py-0.5 pr-4 text-right font-mono">{clockTime(step.start_ms)}</td>
                    <td className="py-0.5 pr-4">{deviceName(house, step.device)}</td>
                    <td className="py-0.5 pr-4">{step.name}</td>
                    <td className="py-0.5 text-muted">{step.why}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </div>
      )}
      <HouseProof />
    </div>
  );
}

interface Done {
  room: string;
  certain: number;
  hands: number;
  risk: number;
}

/** Proves room after room, with progress; it can be cancelled, and rooms that were not touched are at hand. */
function HouseProof() {
  const { house } = useRoom();
  const [done, setDone] = useState<Done[]>([]);
  const [running, setRunning] = useState(false);
  const [problem, setProblem] = useState<string>();
  const abort = useRef<AbortController>(null);
  useEffect(() => () => abort.current?.abort(), []);
  const run = async () => {
    const control = new AbortController();
    abort.current = control;
    setRunning(true);
    setProblem(undefined);
    setDone([]);
    try {
      for (const room of house.rooms) {
        const matrix = await data(
          client.GET("/api/houses/{house}/rooms/{room}/matrix", {
            params: { path: { house: house.house.id, room: room.id } },
            signal: control.signal,
          }),
        );
        const count = (guarantee: string) =>
          matrix.cells.filter((cell) => cell.guarantee === guarantee).length;
        if (matrix.cells.length > 0) {
          const line = {
            room: room.name,
            certain: count("certain"),
            hands: count("if-nobody-else"),
            risk: count("at-risk"),
          };
          setDone((known) => [...known, line]);
        }
      }
    } catch (error) {
      if (!control.signal.aborted) setProblem(error instanceof Error ? error.message : String(error));
    }
    setRunning(false);
  };
  return (
    <section aria-label="Proof of the house">
      <div className="mt-5 flex items-center gap-3">
        <h3 className="text-[16px]">Proof of the house</h3>
        {running ? (
          <button type="button" className="btn" onClick={() => abort.current?.abort()}>
            Cancel
          </button>
        ) : (
          <button type="button" className="btn" onClick={() => void run()}>
            Prove all rooms
          </button>
        )}
        <span role="status" className="text-muted">
          {running && `${done.length} of ${house.rooms.length} rooms`}
        </span>
      </div>
      {problem && <p className="text-stop">{problem}</p>}
      {done.length > 0 && (
        <div className="scrolls">
          <table className="mt-1 border-collapse">
            <thead>
              <tr className="border-b border-ink text-[13.5px] text-muted">
                <th scope="col" className="py-1 pr-6 font-medium">
                  Room
                </th>
                {["certain", "if nobody else", "at risk"].map((name) => (
                  <th key={name} scope="col" className="py-1 pl-4 text-right font-medium">
                    {name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {done.map((line) => (
                <tr key={line.room} className="border-b border-rule">
                  <th scope="row" className="py-1 pr-6 text-left font-normal">
                    {line.room}
                  </th>
                  <td className="py-1 pl-4 text-right font-mono">{line.certain}</td>
                  <td className="py-1 pl-4 text-right font-mono">{line.hands}</td>
                  <td
                    className={`py-1 pl-4 text-right font-mono ${line.risk > 0 ? "font-semibold text-stop" : ""}`}
                  >
                    {line.risk}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}
