import { Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { put, useEdit } from "../../api/queries";
import type { Device, LightLook as Look, ModeSwitch, Zone } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Field } from "../../ui/Inline";
import { ProblemNote } from "../../ui/Problem";
import { useLighting } from "./api";
import { ofKind, zoneNamed } from "./lighting";

const CURVES = [
  ["linear", "linear"],
  ["logarithmic", "logarithmic (IEC 62386-102)"],
  ["perceptual", "perceptual (CIE 1976 L*)"],
] as const;

function RemoveButton({ label, onClick }: { label: string; onClick: () => void }) {
  return (
    <button type="button" className="btn border-transparent px-2" aria-label={label} onClick={onClick}>
      <Trash2 aria-hidden size={14} />
    </button>
  );
}

/** Zones, looks, mode switches, the way out, and where the house stands. */
export function ZonesView() {
  return (
    <div className="grid gap-y-5 *:min-w-0">
      <Zones />
      <Looks />
      <div className="grid gap-x-10 gap-y-5 *:min-w-0 lg:grid-cols-2">
        <Switches />
        <WayOut />
        <Place />
      </div>
    </div>
  );
}

const HEAD = "border-b border-ink text-left text-[13.5px] text-muted";

function Zones() {
  const { house, room } = useRoom();
  const { lighting, save, trouble } = useLighting();
  const lights = ofKind(house, room, ["light"]);
  const change = (zones: Zone[], said: string) => save({ zones }, said);
  const set = (id: string, part: Partial<Zone>) =>
    change(
      lighting.zones.map((zone) => (zone.id === id ? { ...zone, ...part } : zone)),
      "Zone saved.",
    );
  const add = () => {
    const free =
      lights.find((light) => !lighting.zones.some((zone) => zone.device === light.id)) ?? lights[0];
    if (!free) return;
    const taken = lighting.zones.some((zone) => zone.name === free.name);
    const name = taken ? `${free.name} ${lighting.zones.length + 1}` : free.name;
    const zone: Zone = { id: crypto.randomUUID(), name, device: free.id, floor_percent: 5, curve: "linear" };
    change([...lighting.zones, zone], "Zone added.");
  };
  const remove = (id: string) =>
    save(
      {
        zones: lighting.zones.filter((known) => known.id !== id),
        looks: lighting.looks.map((look) => ({
          ...look,
          levels: look.levels.filter((level) => level.zone !== id),
        })),
      },
      "Zone removed. Undo brings it back.",
    );
  return (
    <section aria-label="Zones">
      <h3 className="text-[16px]">Zones</h3>
      {trouble && <ProblemNote text={trouble} />}
      <p className="text-muted">
        What is dimmed together. Below its floor a lamp drops out. Mains and dimmer wiring is a licensed
        electrician’s work.
      </p>
      {lights.length === 0 ? (
        <p className="mt-1 border-t border-rule py-2">This room has no lamp or dimmer yet: add one in Kit.</p>
      ) : (
        <>
          {lighting.zones.length > 0 && (
            <div className="scrolls">
              <table className="mt-1 border-collapse">
                <thead>
                  <tr className={HEAD}>
                    {["Zone", "Dimmer", "Floor", "Curve", ""].map((head) => (
                      <th key={head} scope="col" className="py-1 pr-3 font-medium">
                        {head || <span className="sr-only">Remove</span>}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {lighting.zones.map((zone) => (
                    <ZoneRow
                      key={zone.id}
                      zone={zone}
                      lights={lights}
                      set={(part) => set(zone.id, part)}
                      remove={() => remove(zone.id)}
                    />
                  ))}
                </tbody>
              </table>
            </div>
          )}
          <button type="button" className="btn mt-1.5" onClick={add}>
            <Plus aria-hidden size={14} /> Add zone
          </button>
        </>
      )}
    </section>
  );
}

/** One look: its levels zone by zone, and how long its fade takes. */
function LookRow({
  look,
  columns,
  set,
}: {
  look: Look;
  columns: string[];
  set: (part: Partial<Look>) => void;
}) {
  const { house } = useRoom();
  const { lighting, save } = useLighting();
  const level = (zone: string, text: string) =>
    set({
      levels:
        text.trim() === ""
          ? look.levels.filter((known) => known.zone !== zone)
          : [...look.levels.filter((known) => known.zone !== zone), { zone, percent: Number(text) }],
    });
  return (
    <tr className="border-b border-rule">
      <td className="py-1 pr-3">
        <Field label="Name of the look" value={look.name} className="w-44" onSave={(name) => set({ name })} />
        {look.stored && (
          <p className="max-w-64 text-[13px] text-caution">
            {look.stored.by} stored other levels.{" "}
            <button
              type="button"
              className="link"
              aria-label={`Keep ${look.name}`}
              onClick={() => set({ stored: null })}
            >
              Keep
            </button>{" "}
            <button
              type="button"
              className="link"
              aria-label={`Put back ${look.name}`}
              onClick={() => set({ levels: look.stored?.before ?? look.levels, stored: null })}
            >
              Put back
            </button>
          </p>
        )}
      </td>
      {columns.map((id) => {
        const value = look.levels.find((known) => known.zone === id)?.percent;
        return (
          <td key={`${id} ${value}`} className="pr-3 text-right">
            <Field
              label={`${look.name}: ${zoneNamed(house, id)?.name ?? "zone"} in percent`}
              type="number"
              className="w-16 text-right font-mono"
              value={value === undefined ? "" : String(value)}
              onSave={(text) => level(id, text)}
            />
          </td>
        );
      })}
      <td className="pr-3 text-right whitespace-nowrap">
        <Field
          label={`Fade of ${look.name} in seconds`}
          type="number"
          className="w-18 text-right font-mono"
          value={String((look.fade_ms ?? 0) / 1000)}
          onSave={(text) => set({ fade_ms: Math.round(Number(text) * 1000) })}
        />{" "}
        s
      </td>
      <td>
        <RemoveButton
          label={`Remove ${look.name}`}
          onClick={() =>
            save(
              {
                looks: lighting.looks.filter((known) => known.id !== look.id),
                cues: lighting.cues.map((cue) =>
                  cue.light?.does === "look" && cue.light.look === look.id
                    ? { ...cue, light: { does: "stays" as const } }
                    : cue,
                ),
              },
              "Look removed. Undo brings it back.",
            )
          }
        />
      </td>
    </tr>
  );
}

function Looks() {
  const { house, room } = useRoom();
  const { lighting, save, trouble } = useLighting();
  const [other, setOther] = useState("");
  const used = new Set(lighting.looks.flatMap((look) => look.levels.map((level) => level.zone)));
  const own = lighting.zones.map((zone) => zone.id);
  const borrowed = [...used].filter((id) => !own.includes(id));
  const extra = other && !own.includes(other) && !borrowed.includes(other) ? [other] : [];
  const columns = [...own, ...borrowed, ...extra];
  const elsewhere = house.rooms
    .filter((known) => known.id !== room)
    .flatMap((known) =>
      (known.lighting?.zones ?? []).map((zone) => ({ id: zone.id, name: `${zone.name} (${known.name})` })),
    )
    .filter((zone) => !columns.includes(zone.id));
  const change = (looks: Look[], said: string) => save({ looks }, said);
  const set = (id: string, part: Partial<Look>) =>
    change(
      lighting.looks.map((look) => (look.id === id ? { ...look, ...part } : look)),
      "Look saved.",
    );
  const add = () => {
    let name = "Look";
    for (let at = 2; lighting.looks.some((look) => look.name === name); at += 1) name = `Look ${at}`;
    const levels = lighting.zones.map((zone) => ({ zone: zone.id, percent: 40 }));
    change([...lighting.looks, { id: crypto.randomUUID(), name, levels, fade_ms: 2000 }], "Look added.");
  };
  return (
    <section aria-label="Looks">
      <h3 className="text-[16px]">Looks</h3>
      {trouble && <ProblemNote text={trouble} />}
      <p className="text-muted">
        Levels that belong together, in %. A zone that is left empty stays as it is.
      </p>
      {lighting.looks.length > 0 && (
        <div className="scrolls overflow-x-auto">
          <table className="mt-1 border-collapse">
            <thead>
              <tr className={HEAD}>
                <th scope="col" className="py-1 pr-3 font-medium">
                  Look
                </th>
                {columns.map((id) => (
                  <th key={id} scope="col" className="py-1 pr-3 text-right font-medium">
                    {zoneNamed(house, id)?.name ?? "gone"}
                  </th>
                ))}
                <th scope="col" className="py-1 pr-3 text-right font-medium">
                  Fade
                </th>
                <th scope="col">
                  <span className="sr-only">Remove</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {lighting.looks.map((look) => (
                <LookRow key={look.id} look={look} columns={columns} set={(part) => set(look.id, part)} />
              ))}
            </tbody>
          </table>
        </div>
      )}
      <p className="mt-1.5 flex flex-wrap items-center gap-2">
        <button type="button" className="btn" disabled={lighting.zones.length === 0} onClick={add}>
          <Plus aria-hidden size={14} /> Add look
        </button>
        {elsewhere.length > 0 && lighting.looks.length > 0 && (
          <select
            className="field"
            aria-label="A zone of another room"
            value=""
            onChange={(event) => setOther(event.target.value)}
          >
            <option value="">with a zone of another room…</option>
            {elsewhere.map((zone) => (
              <option key={zone.id} value={zone.id}>
                {zone.name}
              </option>
            ))}
          </select>
        )}
      </p>
    </section>
  );
}

function Switches() {
  const { lighting, save, trouble } = useLighting();
  const change = (switches: ModeSwitch[], said: string) => save({ switches }, said);
  const set = (id: string, part: Partial<ModeSwitch>) =>
    change(
      lighting.switches.map((known) => (known.id === id ? { ...known, ...part } : known)),
      "Mode switch saved.",
    );
  const add = () => {
    let name = "Guests";
    for (let at = 2; lighting.switches.some((known) => known.name === name); at += 1) name = `Guests ${at}`;
    change(
      [...lighting.switches, { id: crypto.randomUUID(), name, at_first: false, off_after_min: null }],
      "Mode switch added.",
    );
  };
  return (
    <section aria-label="Mode switches">
      <h3 className="text-[16px]">Mode switches</h3>
      {trouble && <ProblemNote text={trouble} />}
      <p className="text-muted">Guests, bedtime, holiday: cues set them and ask for them.</p>
      <ul className="mt-1">
        {lighting.switches.map((known) => (
          <li key={known.id} className="flex flex-wrap items-center gap-2 border-b border-rule py-1">
            <Field
              label="Name of the mode switch"
              value={known.name}
              className="w-40"
              onSave={(name) => set(known.id, { name })}
            />
            <label className="flex min-h-8 items-center gap-1.5">
              <input
                type="checkbox"
                checked={known.at_first ?? false}
                onChange={(event) => set(known.id, { at_first: event.target.checked })}
              />
              on at first
            </label>
            <span className="flex items-center gap-1.5">
              off by itself after
              <Field
                label={`${known.name}: off after so many minutes`}
                type="number"
                className="w-18 text-right font-mono"
                value={known.off_after_min ? String(known.off_after_min) : ""}
                onSave={(text) => set(known.id, { off_after_min: Number(text) || null })}
              />
              min
            </span>
            <RemoveButton
              label={`Remove ${known.name}`}
              onClick={() =>
                change(
                  lighting.switches.filter((one) => one.id !== known.id),
                  "Mode switch removed. Undo brings it back.",
                )
              }
            />
          </li>
        ))}
      </ul>
      <button type="button" className="btn mt-1.5" onClick={add}>
        <Plus aria-hidden size={14} /> Add mode switch
      </button>
    </section>
  );
}

function WayOut() {
  const { lighting, save, trouble } = useLighting();
  const exit = lighting.exit ?? { zones: [], percent: 30, walk_s: 60 };
  const set = (part: Partial<typeof exit>) => {
    const next = { ...exit, ...part };
    save({ exit: next.zones.length > 0 ? next : null }, "Way out saved.");
  };
  return (
    <section aria-label="Way out">
      <h3 className="text-[16px]">Way out</h3>
      {trouble && <ProblemNote text={trouble} />}
      <p className="text-muted">
        What stays lit for people on their way, so that nobody stands in the dark on steps. Walk it and count.
      </p>
      <p className="mt-1 flex flex-wrap gap-x-4">
        {lighting.zones.map((zone) => (
          <label key={zone.id} className="flex min-h-8 items-center gap-1.5">
            <input
              type="checkbox"
              checked={exit.zones.includes(zone.id)}
              onChange={(event) =>
                set({
                  zones: event.target.checked
                    ? [...exit.zones, zone.id]
                    : exit.zones.filter((known) => known !== zone.id),
                })
              }
            />
            {zone.name}
          </label>
        ))}
        {lighting.zones.length === 0 && <span className="text-muted">No zone yet.</span>}
      </p>
      {exit.zones.length > 0 && (
        <p className="mt-1 flex flex-wrap items-center gap-2">
          at
          <Field
            label="Level of the way out in percent"
            type="number"
            className="w-16 text-right font-mono"
            value={String(exit.percent)}
            onSave={(text) => set({ percent: Number(text) })}
          />
          % for
          <Field
            label="Walking time in seconds"
            type="number"
            className="w-18 text-right font-mono"
            value={String(exit.walk_s)}
            onSave={(text) => set({ walk_s: Number(text) })}
          />
          s after Finish
        </p>
      )}
    </section>
  );
}

/** Where the house stands, for sunrise and sunset. */
function Place() {
  const { house, say } = useRoom();
  const edit = useEdit(house.house.id);
  const own = house.house;
  const place = own.place ?? { latitude: 0, longitude: 0, zone: "UTC" };
  const set = (part: Partial<typeof place>) =>
    edit.mutate(
      [put({ entity: "house", value: { ...own, place: { ...place, ...part } } }, house.versions[own.id])],
      {
        onSuccess: () => say("Place of the house saved."),
      },
    );
  return (
    <section aria-label="Place">
      <h3 className="text-[16px]">Place of the house</h3>
      <p className="text-muted">For sunrise and sunset, and the days on which the clocks are changed.</p>
      <p className="mt-1 flex flex-wrap items-center gap-2">
        <Field
          label="Latitude in degrees, north is positive"
          type="number"
          className="w-24 text-right font-mono"
          value={String(place.latitude)}
          onSave={(text) => set({ latitude: Number(text) })}
        />
        ° north
        <Field
          label="Longitude in degrees, east is positive"
          type="number"
          className="w-24 text-right font-mono"
          value={String(place.longitude)}
          onSave={(text) => set({ longitude: Number(text) })}
        />
        ° east
      </p>
      <p className="mt-1 flex flex-wrap items-center gap-2">
        Time zone
        <Field
          label="Time zone"
          className="w-64 font-mono"
          value={place.zone}
          onSave={(zone) => set({ zone })}
        />
      </p>
      {edit.error && <ProblemNote text={edit.error.message} />}
    </section>
  );
}

/** One zone: its name, dimmer, floor and curve. */
function ZoneRow({
  zone,
  lights,
  set,
  remove,
}: {
  zone: Zone;
  lights: Device[];
  set: (part: Partial<Zone>) => void;
  remove: () => void;
}) {
  return (
    <tr className="border-b border-rule">
      <td className="py-1 pr-3">
        <Field label="Name of the zone" value={zone.name} className="w-44" onSave={(name) => set({ name })} />
      </td>
      <td className="pr-3">
        <select
          className="field w-48"
          aria-label={`Dimmer of ${zone.name}`}
          value={zone.device}
          onChange={(event) => set({ device: event.target.value })}
        >
          {lights.map((light) => (
            <option key={light.id} value={light.id}>
              {light.name}
            </option>
          ))}
        </select>
      </td>
      <td className="pr-3 whitespace-nowrap">
        <Field
          label={`Floor of ${zone.name} in percent`}
          type="number"
          className="w-16 text-right font-mono"
          value={String(zone.floor_percent ?? 0)}
          onSave={(text) => set({ floor_percent: Number(text) })}
        />{" "}
        %
      </td>
      <td className="pr-3">
        <select
          className="field"
          aria-label={`Curve of ${zone.name}`}
          value={zone.curve}
          onChange={(event) => set({ curve: event.target.value as NonNullable<Zone["curve"]> })}
        >
          {CURVES.map(([id, name]) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </td>
      <td>
        <RemoveButton label={`Remove ${zone.name}`} onClick={remove} />
      </td>
    </tr>
  );
}
