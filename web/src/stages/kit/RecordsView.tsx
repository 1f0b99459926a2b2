import { Download } from "lucide-react";
import { useState } from "react";
import { modelOf, useRoom } from "../../shell/context";
import { inSignalOrder, RECORDS, recordsOf } from "./words";

/** What a service call needs of every device of the room, in one table. */
export function RecordsView({ onOpen }: { onOpen: (device: string) => void }) {
  const { house, room, devices } = useRoom();
  const [secrets, setSecrets] = useState(false);
  return (
    <section aria-label="Records">
      <div className="mb-2 flex flex-wrap items-center gap-4">
        <p className="text-[13px] text-muted">Open a device to write its records down.</p>
        <label className="ml-auto flex min-h-8 items-center gap-2">
          <input
            type="checkbox"
            className="size-4"
            checked={secrets}
            onChange={(event) => setSecrets(event.target.checked)}
          />
          With local keys and accounts
        </label>
        <a
          className="btn"
          href={`/api/houses/${house.house.id}/tables/records.csv?room=${room}&secrets=${secrets}`}
          download
        >
          <Download aria-hidden size={15} /> Save as CSV
        </a>
      </div>
      <div className="scrolls">
        <table className="w-full" aria-label="Records of devices">
          <thead>
            <tr className="border-b border-ink text-[13px] text-muted">
              <th scope="col" className="py-1 pr-3">
                Device
              </th>
              <th scope="col" className="px-2">
                Written down
              </th>
              <th scope="col" className="px-2">
                Still open
              </th>
              <th scope="col" className="px-2 text-right">
                Photos
              </th>
            </tr>
          </thead>
          <tbody>
            {inSignalOrder(house, devices).map((device) => {
              const records = recordsOf(device);
              const known = RECORDS.filter(([key]) => (records[key] ?? "").trim() !== "");
              const open = RECORDS.filter(([key]) => (records[key] ?? "").trim() === "").map(
                ([, label]) => label,
              );
              const model = modelOf(house, device);
              return (
                <tr key={device.id} className="border-b border-rule align-top">
                  <th scope="row" className="py-1 pr-3 font-normal">
                    <button type="button" className="link" onClick={() => onOpen(device.id)}>
                      {device.name}
                    </button>
                    <span className="block text-[13px] text-muted">
                      {model.maker} {model.model}
                    </span>
                  </th>
                  <td className="px-2 py-1">
                    {known.map(([key, label]) => (
                      <p key={key} className="text-[13px]">
                        <span className="text-muted">{label}: </span>
                        {key === "local_key" || key === "account" ? "kept" : records[key]}
                      </p>
                    ))}
                  </td>
                  <td className="px-2 py-1 text-[13px] text-muted">{open.join(", ")}</td>
                  <td className="px-2 py-1 text-right font-mono text-[13px]">
                    {records.photos?.length ?? 0}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      {devices.length === 0 && <p className="py-4 text-muted">There is no device here yet.</p>}
    </section>
  );
}
