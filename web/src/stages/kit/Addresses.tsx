import { Download } from "lucide-react";
import { useState } from "react";
import type { Device, Network } from "../../api/types";
import { profileOf, roomName, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { Typed } from "./ControlPaths";
import { networkOf, useDevicePart } from "./DeviceRecords";
import { LINKS } from "./words";

/** The table of addresses: typed in place, checked in the margin, saved as CSV. */
export function Addresses() {
  const { house, room, devices } = useRoom();
  const [all, setAll] = useState(false);
  const shown = all ? house.devices : devices;
  const query = all ? "" : `?room=${room}`;
  return (
    <section aria-label="Addresses">
      <div className="mb-2 flex flex-wrap items-center gap-4">
        <label className="flex min-h-8 items-center gap-2">
          <input
            type="checkbox"
            className="size-4"
            checked={all}
            onChange={(event) => setAll(event.target.checked)}
          />
          The whole house
        </label>
        <p className="text-[13px] text-muted">
          A device that is controlled over the network needs an address that is reserved for it.
        </p>
        <a
          className="btn ml-auto"
          href={`/api/houses/${house.house.id}/tables/addresses.csv${query}`}
          download
        >
          <Download aria-hidden size={15} /> Save as CSV
        </a>
      </div>
      <div className="scrolls overflow-x-auto">
        <table className="w-full min-w-[760px]" aria-label="Addresses of devices">
          <thead>
            <tr className="border-b border-ink text-[13px] text-muted">
              <th scope="col" className="py-1 pr-3">
                Device
              </th>
              <th scope="col" className="px-2">
                Connected
              </th>
              <th scope="col" className="px-2">
                IP address
              </th>
              <th scope="col" className="px-2">
                MAC address
              </th>
              <th scope="col" className="px-2 text-right">
                Port
              </th>
              <th scope="col" className="px-2">
                Reserved
              </th>
            </tr>
          </thead>
          <tbody>
            {shown.map((device) => (
              <AddressRow key={device.id} device={device} room={all ? roomName(house, device.room) : ""} />
            ))}
          </tbody>
        </table>
      </div>
      {shown.length === 0 && <p className="py-4 text-muted">There is no device here yet.</p>}
    </section>
  );
}

function AddressRow({ device, room }: { device: Device; room: string }) {
  const { house } = useRoom();
  const { save, error } = useDevicePart(device);
  const network = networkOf(device);
  const set = (part: Partial<Network>) => save((now) => ({ network: { ...networkOf(now), ...part } }));
  const bands = profileOf(house, device).wifi;
  return (
    <tr className="border-b border-rule">
      <th scope="row" className="py-1 pr-3 font-normal">
        <span className="font-semibold">{device.name}</span>
        <span className="block text-[13px] text-muted">
          {[room, bands === "2.4-only" ? "2.4 GHz only" : ""].filter(Boolean).join(", ")}
        </span>
        {error && <span className="block text-[13px] text-stop">{error.message}</span>}
      </th>
      <td className="w-36 px-2">
        <Choice
          label={`Connection of ${device.name}`}
          value={network.link}
          onChange={(link) => set({ link: link as Network["link"] })}
          options={LINKS.map(([value, label]) => ({ value, label }))}
        />
      </td>
      <td className="px-2">
        <Typed label={`IP address of ${device.name}`} value={network.ip} onDone={(ip) => set({ ip })} />
      </td>
      <td className="px-2">
        <Typed label={`MAC address of ${device.name}`} value={network.mac} onDone={(mac) => set({ mac })} />
      </td>
      <td className="w-24 px-2">
        <Typed
          label={`Port of ${device.name}`}
          value={network.port == null ? "" : String(network.port)}
          onDone={(text) => {
            const port = Number.parseInt(text, 10);
            set({ port: port > 0 && port < 65_536 ? port : null });
          }}
        />
      </td>
      <td className="px-2">
        <label className="flex min-h-8 items-center gap-1.5">
          <input
            type="checkbox"
            className="size-4"
            checked={network.reserved}
            onChange={(event) => set({ reserved: event.target.checked })}
          />
          reserved
        </label>
      </td>
    </tr>
  );
}
