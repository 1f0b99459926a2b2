import { useEffect, useRef, useState } from "react";
import { put, useEdit } from "../../api/queries";
import type { Cable, Connection, Device } from "../../api/types";
import { modelOf, useRoom } from "../../shell/context";
import { cableName, inSignalOrder } from "./words";

/** A socket: an output or an input of a device. */
interface Socket {
  device: Device;
  id: string;
  name: string;
  cable: Cable;
  out: boolean;
  /** Can sound come back through it? */
  returns: boolean;
}

/** The columns of the drawing, in the order of the signal. */
const COLUMNS: readonly [string, readonly string[]][] = [
  ["Sources", ["disc-player", "streamer", "console", "tuner"]],
  ["Switching", ["receiver", "network"]],
  ["Seen and heard", ["projector", "display", "sound-bar", "amplifier", "speakers"]],
];

/** Wiring: sockets in columns with the cables between them; picked up and plugged by mouse or keyboard. */
export function Wiring({ lit }: { lit: Set<string> }) {
  const { house, devices, say } = useRoom();
  const edit = useEdit(house.house.id);
  const box = useRef<HTMLDivElement>(null);
  const [held, setHeld] = useState<Socket>();
  const shown = inSignalOrder(house, devices).filter((device) => {
    const model = modelOf(house, device);
    return model.inputs.length + model.outputs.length > 0;
  });
  const columnOf = (device: Device) => {
    const at = COLUMNS.findIndex(([, kinds]) => kinds.includes(modelOf(house, device).kind));
    return at < 0 ? COLUMNS.length - 1 : at;
  };
  const inside = new Set(devices.map((device) => device.id));
  const place = new Map(shown.map((device, at) => [device.id, at]));
  const cables = house.connections
    .filter((c) => inside.has(c.from_device) && inside.has(c.to_device))
    .sort((one, other) => (place.get(one.from_device) ?? 0) - (place.get(other.from_device) ?? 0));
  const sockets = shown.flatMap((device) => socketsOf(modelOf(house, device), device));
  const fits = (socket: Socket) =>
    held && held.cable === socket.cable && held.out !== socket.out && held.device.id !== socket.device.id;

  const plug = (one: Socket, other: Socket) => {
    const [from, to] = one.out ? [one, other] : [other, one];
    const known = cables.find((c) => c.to_device === to.device.id && c.to_input === to.id);
    const cable: Connection = {
      id: known?.id ?? crypto.randomUUID(),
      from_device: from.device.id,
      from_output: from.id,
      to_device: to.device.id,
      to_input: to.id,
      return_audio: false,
    };
    edit.mutate([put({ entity: "connection", value: cable }, known ? house.versions[known.id] : undefined)], {
      onSuccess: (saved) => say(saved.title),
      onError: (error) => say(error.message),
    });
  };
  const press = (socket: Socket) => {
    if (!held) setHeld(socket);
    else if (same(held, socket)) setHeld(undefined);
    else if (fits(socket)) {
      plug(held, socket);
      setHeld(undefined);
    } else setHeld(socket);
  };
  const onKey = (event: React.KeyboardEvent) => {
    if (event.key === "Escape" && held) {
      event.stopPropagation();
      setHeld(undefined);
      return;
    }
    const by = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }[event.key];
    if (!by) return;
    const all = [...(box.current?.querySelectorAll<HTMLElement>("[data-socket]:not([disabled])") ?? [])];
    const at = all.findIndex((known) => known === document.activeElement);
    if (at < 0) return;
    event.preventDefault();
    all[(at + by + all.length) % all.length]?.focus();
  };
  const remove = (cable: Connection) =>
    edit.mutate([{ do: "remove", kind: "connection", id: cable.id, base: house.versions[cable.id] ?? 0 }], {
      onSuccess: (saved) => say(saved.title),
      onError: (error) => say(error.message),
    });
  const setReturn = (cable: Connection, return_audio: boolean) =>
    edit.mutate(
      [put({ entity: "connection", value: { ...cable, return_audio } }, house.versions[cable.id])],
      {
        onSuccess: (saved) => say(saved.title),
        onError: (error) => say(error.message),
      },
    );

  return (
    <section aria-label="Wiring">
      <p className="mb-2 text-[13px] text-muted" role="status">
        {held
          ? `Holding the ${cableName(held.cable)} end of ${held.device.name}, ${held.name}. Choose where the other end goes; Esc lets go.`
          : "Choose a socket, then where the other end goes. Only sockets that the plug fits can be chosen."}
      </p>
      <div className="max-md:overflow-x-auto">
        <div ref={box} className="relative max-md:min-w-[680px]" onKeyDown={onKey}>
          <Lines
            box={box}
            cables={cables}
            lit={lit}
            sockets={sockets.map((socket) => placeOf(socket.device.id, socket.id)).join()}
          />
          <div className="grid grid-cols-3 gap-x-24">
            {COLUMNS.map(([title], column) => (
              <div key={title}>
                <h3 className="mb-1 text-[13px] text-muted">{title}</h3>
                <Column
                  devices={shown.filter((device) => columnOf(device) === column)}
                  held={held}
                  fits={fits}
                  press={press}
                />
              </div>
            ))}
          </div>
        </div>
      </div>
      {shown.length === 0 && <p className="py-4 text-muted">No device of this room has a socket yet.</p>}
      <Cables cables={cables} sockets={sockets} setReturn={setReturn} remove={remove} />
    </section>
  );
}

/** Two devices of one model have the same sockets: the device belongs to the name of a place. */
function placeOf(device: string, socket: string): string {
  return `${device} ${socket}`;
}

function same(one: Socket | undefined, other: Socket): boolean {
  return one?.id === other.id && one.device.id === other.device.id;
}

function socketsOf(model: ReturnType<typeof modelOf>, device: Device): Socket[] {
  return [
    ...model.inputs.map((input) => ({ ...input, device, out: false, returns: false })),
    ...model.outputs.map((output) => ({
      ...output,
      device,
      out: true,
      returns: output.returns !== null && output.returns !== undefined,
    })),
  ];
}

/** The cables, drawn from socket to socket. */
function Lines({
  box,
  cables,
  lit,
  sockets,
}: {
  box: React.RefObject<HTMLDivElement | null>;
  cables: Connection[];
  lit: Set<string>;
  sockets: string;
}) {
  const [places, setPlaces] = useState<Record<string, { left: number; right: number; y: number }>>({});
  const [size, setSize] = useState({ width: 0, height: 0 });
  // After the sockets have been drawn and the box is known.
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const measure = () => {
      const origin = element.getBoundingClientRect();
      const next: typeof places = {};
      for (const socket of element.querySelectorAll<HTMLElement>("[data-socket]")) {
        const own = socket.getBoundingClientRect();
        const frame = socket.closest("fieldset")?.getBoundingClientRect() ?? own;
        next[socket.dataset["socket"] ?? ""] = {
          left: frame.left - origin.left,
          right: frame.right - origin.left,
          y: own.top - origin.top + own.height / 2,
        };
      }
      setPlaces(next);
      setSize({ width: origin.width, height: origin.height });
    };
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, [box, sockets]);
  return (
    <svg aria-hidden width={size.width} height={size.height} className="pointer-events-none absolute inset-0">
      {cables.map((cable) => {
        const from = places[placeOf(cable.from_device, cable.from_output)];
        const to = places[placeOf(cable.to_device, cable.to_input)];
        if (!from || !to) return null;
        const back = to.left <= from.right;
        const [x1, x2] = [from.right, back ? to.right : to.left];
        const bend = Math.max(30, Math.abs(x2 - x1) / 2);
        const d = `M ${x1} ${from.y} C ${x1 + bend} ${from.y}, ${back ? x2 + bend : x2 - bend} ${to.y}, ${x2} ${to.y}`;
        const inked = lit.has(cable.id);
        return (
          <g key={cable.id} className={inked ? "text-accent" : "text-edge"}>
            <path d={d} fill="none" stroke="currentColor" strokeWidth={inked ? 2.6 : 1.5} />
            <circle cx={x1} cy={from.y} r={3} fill="currentColor" />
            <circle cx={x2} cy={to.y} r={3} fill="currentColor" />
          </g>
        );
      })}
    </svg>
  );
}

/** The devices of one column with their sockets, inputs left and outputs right. */
function Column({
  devices,
  held,
  fits,
  press,
}: {
  devices: Device[];
  held: Socket | undefined;
  fits: (socket: Socket) => boolean | undefined;
  press: (socket: Socket) => void;
}) {
  const { house } = useRoom();
  return (
    <div className="grid gap-3">
      {devices.map((device) => (
        <fieldset key={device.id} className="relative border border-edge bg-paper px-2 pb-1.5">
          <legend className="px-1 font-semibold">{device.name}</legend>
          <div className="grid grid-cols-2 gap-x-2">
            {[false, true].map((out) => (
              <ul key={String(out)} className={out ? "text-right" : ""}>
                {socketsOf(modelOf(house, device), device)
                  .filter((socket) => socket.out === out && socket.cable !== "return-audio")
                  .map((socket) => (
                    <li key={socket.id}>
                      <button
                        type="button"
                        data-socket={placeOf(device.id, socket.id)}
                        disabled={held !== undefined && !same(held, socket) && !fits(socket)}
                        aria-pressed={same(held, socket)}
                        aria-label={`${out ? "Output" : "Input"} ${socket.name} of ${device.name}, ${cableName(socket.cable)}`}
                        className={`min-h-8 w-full border-b border-rule px-1 leading-tight hover:bg-soft disabled:text-muted disabled:opacity-60 ${out ? "text-right" : "text-left"} ${same(held, socket) ? "bg-select" : ""}`}
                        onClick={() => press(socket)}
                      >
                        <span className="block">{socket.name}</span>
                        <span className="block text-[11.5px] text-muted">{cableName(socket.cable)}</span>
                      </button>
                    </li>
                  ))}
              </ul>
            ))}
          </div>
        </fieldset>
      ))}
    </div>
  );
}

/** The cables of the room as a list. */
function Cables({
  cables,
  sockets,
  setReturn,
  remove,
}: {
  cables: Connection[];
  sockets: Socket[];
  setReturn: (cable: Connection, on: boolean) => void;
  remove: (cable: Connection) => void;
}) {
  return (
    <>
      <h3 className="mt-4 text-[16px]">Cables</h3>
      <div className="scrolls">
        <table className="w-full" aria-label="Cables of this room">
          <tbody>
            {cables.map((cable) => {
              const from = sockets.find(
                (socket) => socket.id === cable.from_output && socket.device.id === cable.from_device,
              );
              const to = sockets.find(
                (socket) => socket.id === cable.to_input && socket.device.id === cable.to_device,
              );
              return (
                <tr key={cable.id} className="border-b border-rule">
                  <td className="py-1 pr-3">
                    {from?.device.name} · {from?.name}
                  </td>
                  <td className="pr-3">
                    → {to?.device.name} · {to?.name}
                  </td>
                  <td className="pr-3 text-muted">{from && cableName(from.cable)}</td>
                  <td className="pr-3">
                    {from?.returns && (
                      <label className="flex min-h-8 items-center gap-1.5">
                        <input
                          type="checkbox"
                          className="size-4"
                          checked={cable.return_audio ?? false}
                          onChange={(event) => setReturn(cable, event.target.checked)}
                        />
                        sound comes back through it
                      </label>
                    )}
                  </td>
                  <td className="text-right">
                    <button
                      type="button"
                      className="link"
                      aria-label={`Pull the cable from ${from?.device.name} to ${to?.device.name}, ${to?.name}`}
                      onClick={() => remove(cable)}
                    >
                      Pull it
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </>
  );
}
