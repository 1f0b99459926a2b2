import { Cast, Plug, PlugZap, Power, RefreshCw } from "lucide-react";
import { useState } from "react";
import type { Device, DeviceView, Faults, Pressed, RoomHand, Want } from "../../api/types";
import { profileOf, useRoom } from "../../shell/context";
import type { useRehearse } from "./api";
import { GESTURE } from "./words";

const WELL: Faults = {
  lost_percent: 0,
  garbled_percent: 0,
  slow_ms: 0,
  silent: false,
  closes: false,
  wrong_digest: false,
};

type Actions = ReturnType<typeof useRehearse>;
type Does = (hand: RoomHand) => void;

/** The hands that meddle with a device, and the faults it can have. */
export function Meddle({
  device,
  state,
  faults = WELL,
  actions,
}: {
  device: Device;
  state: DeviceView;
  faults?: Faults | undefined;
  actions: ReturnType<typeof useRehearse>;
}) {
  const does: Does = (hand) => actions.hand.mutate(hand);
  return (
    <div className="grid gap-x-8 gap-y-2 lg:grid-cols-2">
      <fieldset>
        <legend className="font-semibold">Hands at {device.name}</legend>
        <div className="mt-1 flex flex-wrap gap-1.5">
          <Hands device={device} state={state} does={does} />
        </div>
        <OwnKeys device={device} does={does} />
        <Nudges device={device} actions={actions} />
        <Told device={device} state={state} actions={actions} />
      </fieldset>
      <FaultsOf device={device} faults={faults} actions={actions} />
    </div>
  );
}

function Percent({ label, value, set }: { label: string; value: number; set: (value: number) => void }) {
  return (
    <label className="flex items-center gap-1.5">
      {label}
      <select className="field w-22" value={value} onChange={(event) => set(Number(event.target.value))}>
        {[0, 10, 30, 100].map((percent) => (
          <option key={percent} value={percent}>
            {percent} %
          </option>
        ))}
      </select>
    </label>
  );
}

const MESSAGE = "The film begins in five minutes";

/** What the runtime can tell this device by name: levels, transport, a message, a spoken line. */
function Told({
  device,
  state,
  actions,
}: {
  device: Device;
  state: DeviceView;
  actions: ReturnType<typeof useRehearse>;
}) {
  const { house } = useRoom();
  const profile = profileOf(house, device);
  const { kind, talks } = profile;
  const speaks = device.network?.talks ?? talks;
  const words: [string, Want][] = [];
  if (kind === "light")
    for (const percent of [0, 40, 100])
      words.push([`${percent} % in 2 s`, { want: "level", percent, fade_ms: 2000 }]);
  if (speaks === "player")
    words.push(
      ["Play", { want: "transport", to: "playing" }],
      ["Pause", { want: "transport", to: "paused" }],
      ["Go to the credits", { want: "transport", to: "playing", from_ms: 5_220_000 }],
      ...(profile.apps ?? []).map(({ name }): [string, Want] => [name, { want: "app", name }]),
    );
  if (speaks === "http")
    words.push([
      state.message ? "Take the message away" : "Show a message",
      { want: "message", text: state.message ? "" : MESSAGE },
    ]);
  if (speaks === "speaker") words.push(["Say a line at 40 %", { want: "say", text: MESSAGE, percent: 40 }]);
  if (words.length === 0) return null;
  return (
    <p className="mt-1.5 flex flex-wrap items-center gap-1.5">
      <span className="text-muted">By the runtime:</span>
      {words.map(([label, want]) => (
        <button
          key={label}
          type="button"
          className="btn px-2 text-[13.5px]"
          onClick={() => actions.want.mutate({ device: device.id, want })}
        >
          {label}
        </button>
      ))}
    </p>
  );
}

/** What a hand in the room can do at the device itself. */
function Hands({ device, state, does }: { device: Device; state: DeviceView; does: Does }) {
  const { house } = useRoom();
  const profile = profileOf(house, device);
  const powered = !["always-on", "follows"].includes(profile.power.how);
  const inputs = profile.selection.how === "none" ? [] : profile.inputs;
  return (
    <>
      {powered && (
        <button type="button" className="btn" onClick={() => does({ does: "power", device: device.id })}>
          <Power aria-hidden size={14} /> Its own power button
        </button>
      )}
      <button
        type="button"
        className="btn"
        onClick={() => does({ does: "plug", device: device.id, plugged: !state.plugged })}
      >
        {state.plugged ? (
          <>
            <Plug aria-hidden size={14} /> Pull the plug
          </>
        ) : (
          <>
            <PlugZap aria-hidden size={14} /> Plug in
          </>
        )}
      </button>
      {inputs.map((input) => (
        <button
          key={input.id}
          type="button"
          className="btn"
          onClick={() => does({ does: "input", device: device.id, input: input.id })}
        >
          Input {input.name}
        </button>
      ))}
      {profile.kind === "streamer" && (
        <button type="button" className="btn" onClick={() => does({ does: "cast", device: device.id })}>
          <Cast aria-hidden size={14} /> Send something from a phone
        </button>
      )}
      {state.tripped !== null && state.tripped !== undefined && (
        <button
          type="button"
          className="btn"
          onClick={() => does({ does: "trip", device: device.id, on: !state.tripped })}
        >
          {state.tripped ? "Leave it alone" : "Trip it: walk by, open the door"}
        </button>
      )}
      {state.level_percent !== null &&
        state.level_percent !== undefined &&
        [0, 20, 60, 100].map((percent) => (
          <button
            key={percent}
            type="button"
            className="btn"
            onClick={() => does({ does: "level", device: device.id, percent })}
          >
            {percent} % on the wall
          </button>
        ))}
    </>
  );
}

/** The keys of its own remote, or of the keypad itself. */
function OwnKeys({ device, does }: { device: Device; does: Does }) {
  const { house } = useRoom();
  const profile = profileOf(house, device);
  const keys = profile.functions.slice(0, 16);
  // A keypad is pressed, and so is the wall switch of a dimmer.
  const pressed = profile.kind === "keypad" ? keys : keys.filter((key) => key.means === "pressed");
  const sent = keys.filter((key) => !pressed.includes(key));
  const [gesture, setGesture] = useState<Pressed["gesture"]>("tap");
  return (
    <>
      {pressed.length > 0 && (
        <p className="mt-1.5 flex flex-wrap items-center gap-1.5">
          <label className="flex items-center gap-1.5">
            <span className="text-muted">Keys are</span>
            <select
              className="field w-32"
              aria-label="How keys are pressed"
              value={gesture}
              onChange={(event) => setGesture(event.target.value as Pressed["gesture"])}
            >
              {(["tap", "double-tap", "hold"] as const).map((one) => (
                <option key={one} value={one}>
                  {GESTURE[one]}
                </option>
              ))}
            </select>
          </label>
          {pressed.map((key) => (
            <button
              key={key.id}
              type="button"
              className="btn px-2 text-[13.5px]"
              onClick={() => does({ does: "press", device: device.id, function: key.id, gesture })}
            >
              {key.name}
            </button>
          ))}
        </p>
      )}
      {sent.length > 0 && (
        <p className="mt-1.5 flex flex-wrap items-center gap-1.5">
          <span className="text-muted">Its own remote:</span>
          {sent.map((key) => (
            <button
              key={key.id}
              type="button"
              className="btn px-2 text-[13.5px]"
              onClick={() => does({ does: "key", device: device.id, function: key.id })}
            >
              {key.name}
            </button>
          ))}
        </p>
      )}
    </>
  );
}

/** Steps of the volume by the runtime, which keeps the ceiling. */
function Nudges({ device, actions }: { device: Device; actions: Actions }) {
  const { house } = useRoom();
  const profile = profileOf(house, device);
  return (
    <>
      {profile.volume && (
        <p className="mt-1.5 flex flex-wrap items-center gap-1.5">
          <span className="text-muted">By the runtime:</span>
          {([-1, 1, 5] as const).map((steps) => (
            <button
              key={steps}
              type="button"
              className="btn px-2 text-[13.5px]"
              onClick={() => actions.nudge.mutate({ device: device.id, steps })}
            >
              {steps < 0 ? "Softer" : steps === 1 ? "Louder" : `Louder by ${steps}`}
            </button>
          ))}
          {actions.nudge.data?.held && <span className="text-caution">{actions.nudge.data.held}</span>}
        </p>
      )}
    </>
  );
}

/** The faults that a device can have. */
function FaultsOf({ device, faults, actions }: { device: Device; faults: Faults; actions: Actions }) {
  const breaks = (part: Partial<Faults>) =>
    actions.fault.mutate({ device: device.id, faults: { ...faults, ...part } });
  return (
    <fieldset>
      <legend className="font-semibold">Faults of {device.name}</legend>
      <div className="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1.5">
        <Percent
          label="Loses"
          value={faults.lost_percent ?? 0}
          set={(lost_percent) => breaks({ lost_percent })}
        />
        <Percent
          label="Garbles"
          value={faults.garbled_percent ?? 0}
          set={(garbled_percent) => breaks({ garbled_percent })}
        />
        <label className="flex items-center gap-1.5">
          Late by
          <select
            className="field w-24"
            value={faults.slow_ms ?? 0}
            onChange={(event) => breaks({ slow_ms: Number(event.target.value) })}
          >
            {[0, 500, 2000, 5000].map((ms) => (
              <option key={ms} value={ms}>
                {ms / 1000} s
              </option>
            ))}
          </select>
        </label>
        {(
          [
            ["silent", "Says nothing"],
            ["closes", "Closes connections"],
            ["wrong_digest", "Refuses the password"],
          ] as const
        ).map(([name, label]) => (
          <label key={name} className="flex min-h-8 items-center gap-1.5">
            <input
              type="checkbox"
              checked={faults[name] ?? false}
              onChange={(event) => breaks({ [name]: event.target.checked })}
            />
            {label}
          </label>
        ))}
        <button type="button" className="btn" onClick={() => actions.restart.mutate(device.id)}>
          <RefreshCw aria-hidden size={14} /> Restart it
        </button>
      </div>
    </fieldset>
  );
}
