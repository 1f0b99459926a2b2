import { useAttempts } from "../../api/queries";
import type { Attempt, Device, DeviceFunction } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Waiting } from "../../ui/Waiting";
import { dayTime } from "../../ui/when";

const WHAT: Record<Attempt["what"], string> = {
  learn: "learned",
  test: "tested",
  preset: "tried from a set",
  search: "searched",
};

/** What was tried with a function, the newest first. */
export function Attempts({ device, fn }: { device: Device; fn?: DeviceFunction }) {
  const { house } = useRoom();
  const attempts = useAttempts(house.house.id, device.id, fn?.id);
  if (!attempts.data) return <Waiting what="the attempts" error={attempts.error} />;
  if (attempts.data.length === 0)
    return <p className="py-2 text-muted">Nothing has been tried with it yet. Learn it, or send it once.</p>;
  return (
    <div className="scrolls">
      <table className="w-full" aria-label="Attempts">
        <thead>
          <tr className="border-b border-ink text-[13px] text-muted">
            <th scope="col" className="py-1 pr-3">
              When
            </th>
            <th scope="col" className="pr-3">
              What
            </th>
            <th scope="col" className="pr-3">
              Outcome
            </th>
            <th scope="col" className="pr-3">
              Sent or heard
            </th>
            <th scope="col">Note</th>
          </tr>
        </thead>
        <tbody>
          {attempts.data.map((attempt) => (
            <tr key={attempt.id} className="border-b border-rule align-top text-[14px]">
              <td className="py-1 pr-3 whitespace-nowrap">{dayTime(attempt.at)}</td>
              <td className="pr-3">{WHAT[attempt.what]}</td>
              <td className="pr-3">{attempt.outcome.replaceAll("-", " ")}</td>
              <td className="pr-3 font-mono text-[13px]">{attempt.sent}</td>
              <td>{attempt.note}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
