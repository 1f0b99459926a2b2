import { Hand } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { useRehearsal } from "../../api/live";
import type { Surface } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Pick } from "../../ui/Inline";
import { choices } from "./surface";

/** The hard key, face or gesture that stands for a key: chosen, or found by doing it. */
export function HardKey({
  surface,
  device,
  value,
  onChange,
}: {
  surface: Surface;
  device: string;
  value: string | undefined;
  onChange: (sends: string | null) => void;
}) {
  const { house, room } = useRoom();
  const [waits, setWaits] = useState(false);
  const known = choices(house, room);
  return (
    <div className="flex min-h-9 flex-wrap items-center gap-2">
      <span className="w-20 shrink-0 text-muted">Sent by</span>
      <Pick
        label="Hard key, face or gesture"
        value={value ?? ""}
        options={[["", "no key of it"], ...known.functions(device)]}
        onChange={(id) => onChange(id || null)}
      />
      <button type="button" className="btn" aria-pressed={waits} onClick={() => setWaits(!waits)}>
        <Hand aria-hidden size={14} /> {waits ? "Waiting for a press …" : "Identify by pressing"}
      </button>
      {waits && (
        <Identify
          device={device}
          onHeard={(id) => {
            onChange(id);
            setWaits(false);
          }}
        />
      )}
      {waits && (
        <span className="text-muted">
          Press it on {surface.name}, or do the gesture, in the room or in Rehearse on another page.
        </span>
      )}
    </div>
  );
}

/** Listens to the room until the device sends a press. */
function Identify({ device, onHeard }: { device: string; onHeard: (id: string) => void }) {
  const { house, room } = useRoom();
  const view = useRehearsal(house.house.id, room);
  const pressed = view?.pressed.filter((known) => known.device === device).at(-1);
  const began = useRef<number>(undefined);
  const now = view?.now_ms;
  useEffect(() => {
    if (now === undefined) return;
    began.current ??= now;
    if (pressed && pressed.at_ms >= began.current) onHeard(pressed.function);
  }, [now, pressed, onHeard]);
  return null;
}
