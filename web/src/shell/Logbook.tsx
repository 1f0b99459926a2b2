import { dayTime, localClocks } from "../ui/when";
import { useState } from "react";
import { setWho, whoAmI } from "../api/client";
import { useLog } from "../api/queries";
import { Sheet } from "../ui/Sheet";
import { Waiting } from "../ui/Waiting";
import { useRoom } from "./context";

/** The logbook: every change of the house, who made it and when. */
export function Logbook({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { house } = useRoom();
  const log = useLog(house.house.id, open);
  const [who, setName] = useState(whoAmI);
  return (
    <Sheet open={open} onClose={onClose} title={`Logbook of ${house.house.name}`} wide>
      <label className="mb-3 flex items-center gap-2">
        <span className="text-muted">Your changes stand here under</span>
        <input
          className="field max-w-56"
          value={who}
          placeholder="someone"
          maxLength={80}
          onChange={(event) => {
            setName(event.target.value);
            setWho(event.target.value);
          }}
        />
      </label>
      {!log.data && <Waiting what="the log" error={log.error} />}
      {log.data?.length === 0 && <p className="text-muted">Nothing has been changed yet.</p>}
      <div className="scrolls">
        <table className="w-full">
          {log.data && log.data.length > 0 && (
            <thead>
              <tr className="border-b border-ink text-muted">
                <th scope="col" className="py-1 pr-3">
                  Nr
                </th>
                <th scope="col" className="py-1 pr-3">
                  When
                </th>
                <th scope="col" className="py-1 pr-3">
                  Who
                </th>
                <th scope="col" className="py-1">
                  What
                </th>
              </tr>
            </thead>
          )}
          <tbody>
            {log.data?.map((line) => (
              <tr key={line.revision} className="border-b border-rule align-top">
                <td className="py-1 pr-3 text-right font-mono text-[13px]">{line.revision}</td>
                <td className="py-1 pr-3 text-[13px] whitespace-nowrap">{dayTime(line.at)}</td>
                <td className="py-1 pr-3">{line.who}</td>
                <td className="py-1">
                  {localClocks(line.title)}
                  {line.undone && <span className="ml-2 text-muted">(undone)</span>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Sheet>
  );
}
