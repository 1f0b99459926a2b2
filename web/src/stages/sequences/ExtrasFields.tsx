import { Plus, Trash2 } from "lucide-react";
import type { ReactNode } from "react";
import type { Device, Shortcut } from "../../api/types";
import { modelOf, profileOf, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { NO_APP, type ExtrasText, type FavouriteText } from "./extras";

/** What comes with an activity: volume, app, settings, the arrival look, favourites. */
export function ExtrasFields({
  value,
  onChange,
  source,
  heard,
}: {
  value: ExtrasText;
  onChange: (value: ExtrasText) => void;
  source: string;
  heard: string | undefined;
}) {
  const { house, devices } = useRoom();
  const find = (id: string | undefined) => devices.find((device) => device.id === id);
  const [from, sounds] = [find(source), find(heard)];
  const apps = from ? (profileOf(house, from).apps ?? []) : [];
  const volume = sounds ? profileOf(house, sounds).volume : undefined;
  const withModes = devices.filter((device) => (profileOf(house, device).modes ?? []).length > 0);
  const lights = devices.filter((device) => profileOf(house, device).kind === "light");
  const set = (change: Partial<ExtrasText>) => onChange({ ...value, ...change });
  return (
    <details className="border-t border-rule pt-2" open={value.favourites.length > 0 || value.volume !== ""}>
      <summary className="cursor-pointer font-semibold">What comes with it</summary>
      <div className="mt-2 grid gap-3">
        <div className="grid grid-cols-2 gap-3">
          {volume && (
            <label>
              <span className="label">
                Start volume of {sounds?.name} (0–{volume.ceiling}, empty: as it is)
              </span>
              <input
                className="field"
                inputMode="numeric"
                value={value.volume}
                onChange={(event) => set({ volume: event.target.value })}
              />
            </label>
          )}
          {apps.length > 0 && (
            <div>
              <span className="label">{from?.name} goes on to</span>
              <Choice
                label="App or channel"
                value={value.app}
                onChange={(app) => set({ app })}
                options={[
                  { value: NO_APP, label: "nothing" },
                  ...apps.map((app) => ({ value: app.name, label: app.name })),
                ]}
              />
            </div>
          )}
        </div>
        <Settings devices={withModes} value={value} set={set} />
        <Arrivals devices={lights} value={value} set={set} />
        <Favourites device={from} value={value} set={set} />
      </div>
    </details>
  );
}

type Set = (change: Partial<ExtrasText>) => void;

function Settings({ devices, value, set }: { devices: Device[]; value: ExtrasText; set: Set }) {
  const { house } = useRoom();
  if (devices.length === 0) return null;
  const chosen = (device: string, mode: string) =>
    value.settings.find((one) => one.device === device && one.mode === mode)?.value ?? "none";
  return (
    <div className="grid grid-cols-2 gap-3">
      {devices.flatMap((device) =>
        (profileOf(house, device).modes ?? []).map((mode) => (
          <div key={`${device.id} ${mode.name}`}>
            <span className="label">
              {mode.name} of {device.name}
            </span>
            <Choice
              label={`${mode.name} of ${device.name}`}
              value={chosen(device.id, mode.name)}
              onChange={(next) =>
                set({
                  settings: [
                    ...value.settings.filter((one) => one.device !== device.id || one.mode !== mode.name),
                    ...(next === "none" ? [] : [{ device: device.id, mode: mode.name, value: next }]),
                  ],
                })
              }
              options={[
                { value: "none", label: "by the kind of source" },
                ...mode.values.map((one) => ({ value: one.name, label: one.name })),
              ]}
            />
          </div>
        )),
      )}
    </div>
  );
}

function Arrivals({ devices, value, set }: { devices: Device[]; value: ExtrasText; set: Set }) {
  const { house } = useRoom();
  if (devices.length === 0) return null;
  return (
    <div>
      <p className="label">
        Arrival look: sent first, so that nobody comes into a dark room. The film look belongs to playback,
        not here.
      </p>
      <div className="grid grid-cols-2 gap-3">
        {devices.map((device) => (
          <div key={device.id}>
            <span className="label">{device.name}</span>
            <Choice
              label={`Arrival look of ${device.name}`}
              value={value.arrival.find((one) => one.device === device.id)?.function ?? "none"}
              onChange={(next) =>
                set({
                  arrival: [
                    ...value.arrival.filter((one) => one.device !== device.id),
                    ...(next === "none" ? [] : [{ device: device.id, function: next }]),
                  ],
                })
              }
              options={[
                { value: "none", label: "as it is" },
                ...modelOf(house, device).functions.map((f) => ({ value: f.id, label: f.name })),
              ]}
            />
          </div>
        ))}
      </div>
    </div>
  );
}

const DOES: Record<Shortcut["does"], string> = {
  channel: "a channel",
  app: "an app",
  presses: "a key, several times",
  volume: "louder or softer",
};

const TEXT: Record<Shortcut["does"], string> = {
  channel: "Number",
  app: "Which",
  presses: "How often",
  volume: "Steps (- is softer)",
};

function Favourites({ device, value, set }: { device: Device | undefined; value: ExtrasText; set: Set }) {
  const { house } = useRoom();
  const functions = device ? modelOf(house, device).functions : [];
  const change = (index: number, own: Partial<FavouriteText>) =>
    set({ favourites: value.favourites.map((one, at) => (at === index ? { ...one, ...own } : one)) });
  const add = () =>
    set({
      favourites: [
        ...value.favourites,
        { name: "", does: "channel", text: "", function: functions[0]?.id ?? "" },
      ],
    });
  return (
    <div>
      <p className="label">Favourites: one press away while it runs</p>
      <ul className="grid gap-2">
        {value.favourites.map((one, index) => (
          <li key={index} className="grid grid-cols-[1fr_1fr_1fr_auto] items-end gap-2">
            <Field label="Name">
              <input
                className="field"
                aria-label={`Name of favourite ${index + 1}`}
                value={one.name}
                onChange={(event) => change(index, { name: event.target.value })}
              />
            </Field>
            <Field label="It is">
              <Choice
                label={`Favourite ${index + 1} is`}
                value={one.does}
                onChange={(does) => change(index, { does: does as Shortcut["does"] })}
                options={Object.entries(DOES).map(([id, label]) => ({ value: id, label }))}
              />
            </Field>
            <Field label={TEXT[one.does]}>
              <span className="flex gap-1">
                {one.does === "presses" && (
                  <Choice
                    label={`Key of favourite ${index + 1}`}
                    value={one.function}
                    onChange={(next) => change(index, { function: next })}
                    options={functions.map((f) => ({ value: f.id, label: f.name }))}
                  />
                )}
                <input
                  className="field min-w-12"
                  aria-label={`${TEXT[one.does]} of favourite ${index + 1}`}
                  value={one.text}
                  onChange={(event) => change(index, { text: event.target.value })}
                />
              </span>
            </Field>
            <button
              type="button"
              className="btn border-transparent px-2"
              aria-label={`Remove favourite ${index + 1}`}
              onClick={() => set({ favourites: value.favourites.filter((_, at) => at !== index) })}
            >
              <Trash2 aria-hidden size={15} />
            </button>
          </li>
        ))}
      </ul>
      <button type="button" className="btn mt-1" onClick={add}>
        <Plus aria-hidden size={15} /> Add favourite
      </button>
    </div>
  );
}

function Field({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div>
      <span className="label">{label}</span>
      {children}
    </div>
  );
}
