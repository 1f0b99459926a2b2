import { Download } from "lucide-react";
import { useState } from "react";
import type { Device } from "../../api/types";
import { roomName, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { Sheet } from "../../ui/Sheet";

const FORMATS: readonly [string, string, string][] = [
  ["csv", "Code set, CSV", "Everything: decoded, raw, opaque, radio and network."],
  ["keymap", "Remote keymap, TOML", "Infrared alone; says at its head what it leaves out."],
  ["pulse", "Pulse and space text", "Everything that has timing, under names."],
  ["signed", "Signed text", "The same in one line each."],
  ["vcd", "Value change dump", "The same as signals of a logic analyser."],
];

/** The codes of a device, a room or the house in one file of each format. */
export function ExportSheet({
  devices,
  first,
  onClose,
}: {
  devices: Device[];
  first: string | undefined;
  onClose: () => void;
}) {
  const { house, room } = useRoom();
  const [scope, setScope] = useState(first ?? "room");
  const query = scope === "house" ? "" : scope === "room" ? `room=${room}&` : `device=${scope}&`;
  return (
    <Sheet open onClose={onClose} title="Export codes">
      <div className="grid gap-3">
        <div>
          <span className="label">Whose codes</span>
          <Choice
            label="Whose codes"
            value={scope}
            onChange={setScope}
            options={[
              { value: "house", label: house.house.name },
              { value: "room", label: roomName(house, room) },
              ...devices.map((device) => ({ value: device.id, label: device.name })),
            ]}
          />
        </div>
        <ul>
          {FORMATS.map(([format, name, holds]) => (
            <li key={format} className="flex items-center gap-3 border-t border-rule py-1.5">
              <div className="flex-1">
                <p className="font-semibold">{name}</p>
                <p className="text-[13px] text-muted">{holds}</p>
              </div>
              <a
                className="btn"
                download
                aria-label={`Save as ${name}`}
                href={`/api/houses/${house.house.id}/codes.export?${query}format=${format}`}
              >
                <Download aria-hidden size={15} /> Save
              </a>
            </li>
          ))}
        </ul>
      </div>
    </Sheet>
  );
}
