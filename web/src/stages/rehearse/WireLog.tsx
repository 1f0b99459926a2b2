import type { RehearsalView } from "../../api/types";
import { deviceName, useRoom } from "../../shell/context";
import { clockTime } from "../../ui/time";
import { mediumName } from "../kit/words";

/** What went over the air, the newest first, and who understood it. */
export function WireLog({ view }: { view: RehearsalView }) {
  const { house } = useRoom();
  const lines = [...view.wire].reverse();
  return (
    <>
      <h3 className="mt-4 text-[16px]">
        Wire log <span className="text-[13px] font-normal text-muted">gateway at {view.gateway}</span>
      </h3>
      {lines.length === 0 ? (
        <p className="border-t border-ink py-2 text-muted">Nothing has been sent yet.</p>
      ) : (
        <table className="w-full border-collapse" aria-label="Wire log">
          <thead>
            <tr className="border-b border-ink text-[13.5px] text-muted">
              <th scope="col" className="w-20 py-1 pr-4 text-right font-medium">
                At
              </th>
              <th scope="col" className="py-1 pr-3 font-medium">
                By
              </th>
              <th scope="col" className="py-1 pr-3 font-medium">
                On the air
              </th>
              <th scope="col" className="py-1 pr-4 text-right font-medium">
                Length
              </th>
              <th scope="col" className="py-1 font-medium">
                Who understood it, and what they did
              </th>
            </tr>
          </thead>
          <tbody>
            {lines.map((line) => (
              <tr key={line.number} className="border-b border-rule align-top">
                <td className="py-1 pr-4 text-right font-mono">{clockTime(line.at_ms)}</td>
                <td className="py-1 pr-3">{mediumName(line.medium)}</td>
                <td className="py-1 pr-3 font-mono text-[13px]">{line.meaning}</td>
                <td className="py-1 pr-4 text-right whitespace-nowrap">{line.length_ms} ms</td>
                <td className="py-1">
                  {line.heard.length === 0 && <span className="text-stop">nobody</span>}
                  {line.heard.map((one) => (
                    <span key={one.device} className="block">
                      {deviceName(house, one.device)}, {one.name}:{" "}
                      {one.outcome.did === "obeyed" ? (
                        one.outcome.what
                      ) : (
                        <span className="text-caution">ignored, {one.outcome.why}</span>
                      )}
                    </span>
                  ))}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
