import { useMutation, useQueryClient } from "@tanstack/react-query";
import { ImagePlus, Trash2 } from "lucide-react";
import { useState } from "react";
import { client, data } from "../../api/client";
import { keys, put, sendEdits, takeOver } from "../../api/queries";
import type { Device, HouseView, Network, Records } from "../../api/types";
import { profileOf, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { FileButton } from "../../ui/FileButton";
import { ProblemNote } from "../../ui/Problem";
import { Typed } from "./ControlPaths";
import { LINKS, RECORDS, recordsOf } from "./words";

const EMPTY_NETWORK: Required<Network> = {
  link: "none",
  ip: "",
  mac: "",
  reserved: false,
  port: null,
  talks: null,
  password: "",
  drive_at: "",
  allowed: "",
};

/** The protocols in which a device can be spoken to; the model's own comes first. */
const TALKS = [
  ["model", "As its model does"],
  ["lines", "Text lines over TCP"],
  ["pjlink", "PJLink class 1"],
  ["http", "HTTP, woken by Wake-on-LAN"],
  ["player", "Player lines (JSON)"],
  ["speaker", "Speaker lines (JSON)"],
  ["mqtt", "MQTT"],
  ["e131", "E1.31 levels"],
] as const;

/** Is this address on this machine? */
export function onThisMachine(address: string): boolean {
  return /^(127\.\d+\.\d+\.\d+|\[::1\]):\d+$/.test(address.trim());
}

export function networkOf(device: Device): Required<Network> {
  return { ...EMPTY_NETWORK, ...device.network } as Required<Network>;
}

/** Saves a part of a device at once, made from the device as it is by then: quick changes follow each other. */
export function useDevicePart(device: Device) {
  const { house, say } = useRoom();
  const queries = useQueryClient();
  const id = house.house.id;
  const edit = useMutation({
    scope: { id: `device ${device.id}` },
    mutationFn: (part: (now: Device) => Partial<Device>) => {
      const view = queries.getQueryData<HouseView>(keys.house(id)) ?? house;
      const now = view.devices.find((known) => known.id === device.id) ?? device;
      const change = put({ entity: "device", value: { ...now, ...part(now) } }, view.versions[device.id]);
      return sendEdits(id, [change]);
    },
    onSuccess: (saved) => {
      takeOver(queries, saved.changed);
      say(saved.title);
    },
  });
  return { save: edit.mutate, error: edit.error, pending: edit.isPending };
}

/** Where a device is on the network and in the house, and what a service call needs to know of it. */
export function DeviceRecords({ device }: { device: Device }) {
  const { save, error } = useDevicePart(device);
  const network = networkOf(device);
  const records = recordsOf(device);
  const setNetwork = (part: Partial<Network>) => save((now) => ({ network: { ...networkOf(now), ...part } }));
  const setRecords = (part: Partial<Records>) => save((now) => ({ records: { ...recordsOf(now), ...part } }));
  return (
    <div className="max-w-[880px]">
      {error && <ProblemNote text={error.message} />}
      <Place device={device} records={records} save={save} setRecords={setRecords} />
      <NetworkPart network={network} setNetwork={setNetwork} />
      <Reported device={device} />
      <fieldset className="mt-3 border-t border-rule pt-1.5">
        <legend className="pr-2 font-semibold">For the service call</legend>
        <div className="grid grid-cols-[repeat(auto-fill,minmax(190px,1fr))] gap-x-4 gap-y-2">
          {RECORDS.map(([key, label]) => (
            <Field
              key={key}
              label={label}
              value={records[key] ?? ""}
              onDone={(text) => setRecords({ [key]: text })}
            />
          ))}
          <NeedsCloud records={records} setRecords={setRecords} />
        </div>
        <p className="mt-1 text-[13px] text-muted">
          Local keys and accounts stay in this house: exports leave them out unless you ask for them.
        </p>
        <Photos device={device} records={records} onChange={(photos) => setRecords({ photos })} />
      </fieldset>
    </div>
  );
}

/** A typed port; nothing where it is none. */
function portOf(text: string): number | null {
  const port = Number.parseInt(text, 10);
  return port > 0 && port < 65_536 ? port : null;
}

function Field({ label, value, onDone }: { label: string; value: string; onDone: (text: string) => void }) {
  return (
    <div>
      <span className="label">{label}</span>
      <Typed label={label} value={value} onDone={onDone} />
    </div>
  );
}

/** The name that the device reports for each input, beside the label on its front. */
function Reported({ device }: { device: Device }) {
  const { house, room } = useRoom();
  const { save } = useDevicePart(device);
  const profile = profileOf(house, device);
  const [asking, setAsking] = useState<string>();
  const read = useMutation({
    mutationFn: (input: string) =>
      data(
        client.POST("/api/houses/{house}/rooms/{room}/read-back", {
          params: { path: { house: house.house.id, room } },
          body: { device: device.id, input },
        }),
      ),
    onMutate: setAsking,
    onSuccess: (answer, input) =>
      save((now) => ({ reported: { ...now.reported, [input]: answer.reported } })),
    onSettled: () => setAsking(undefined),
  });
  if (profile.inputs.length === 0) return null;
  return (
    <fieldset className="mt-3 border-t border-rule pt-1.5">
      <legend className="pr-2 font-semibold">What it calls its inputs</legend>
      {read.error && <ProblemNote text={read.error.message} />}
      <div className="scrolls">
        <table aria-label={`Reported names of ${device.name}`}>
          <thead>
            <tr className="text-[13px] text-muted">
              <th scope="col" className="py-1 pr-4">
                On its front
              </th>
              <th scope="col" className="pr-4">
                It reports
              </th>
              <th scope="col">Read back from the device</th>
            </tr>
          </thead>
          <tbody>
            {profile.inputs.map((input) => (
              <tr key={input.id} className="border-t border-rule">
                <th scope="row" className="pr-4 font-normal">
                  {input.name}
                </th>
                <td className="py-0.5 pr-4">
                  <Typed
                    label={`Reported name of ${input.name}`}
                    value={device.reported?.[input.id] ?? ""}
                    onDone={(text) => save((now) => ({ reported: { ...now.reported, [input.id]: text } }))}
                  />
                </td>
                <td>
                  <button
                    type="button"
                    className="btn"
                    disabled={read.isPending}
                    onClick={() => read.mutate(input.id)}
                  >
                    {asking === input.id ? "Selecting …" : "Select and read"}
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </fieldset>
  );
}

/** Photos of the label and the back. */
function Photos({
  device,
  records,
  onChange,
}: {
  device: Device;
  records: Records;
  onChange: (photos: NonNullable<Records["photos"]>) => void;
}) {
  const { house } = useRoom();
  const photos = records.photos ?? [];
  const upload = useMutation({
    mutationFn: async (chosen: File) => {
      const answer = await data(
        client.POST("/api/houses/{house}/photos", {
          params: { path: { house: house.house.id } },
          body: chosen as unknown as string,
          bodySerializer: (body) => body as unknown as BodyInit as never,
          headers: { "content-type": "application/octet-stream" },
        }),
      );
      return { id: answer.id, caption: chosen.name.slice(0, 80) };
    },
    onSuccess: (photo) => onChange([...photos, photo]),
  });
  return (
    <div className="mt-2">
      {upload.error && <ProblemNote text={upload.error.message} />}
      <ul className="flex flex-wrap gap-3">
        {photos.map((photo) => (
          <li key={photo.id} className="w-40">
            <a href={`/api/houses/${house.house.id}/photos/${photo.id}`} target="_blank" rel="noreferrer">
              <img
                src={`/api/houses/${house.house.id}/photos/${photo.id}`}
                alt={`${photo.caption}, ${device.name}`}
                className="h-28 w-40 border border-rule object-cover"
              />
            </a>
            <div className="mt-1 flex gap-1">
              <Typed
                label={`Caption of ${photo.caption}`}
                value={photo.caption}
                onDone={(caption) =>
                  onChange(photos.map((known) => (known.id === photo.id ? { ...known, caption } : known)))
                }
              />
              <button
                type="button"
                className="btn border-transparent px-1.5"
                aria-label={`Remove photo ${photo.caption}`}
                onClick={() => onChange(photos.filter((known) => known.id !== photo.id))}
              >
                <Trash2 aria-hidden size={15} />
              </button>
            </div>
          </li>
        ))}
      </ul>
      <FileButton
        label="Photo of the label"
        accept="image/png,image/jpeg,image/webp"
        className="mt-2"
        disabled={upload.isPending}
        onFile={(chosen) => upload.mutate(chosen)}
      >
        <ImagePlus aria-hidden size={15} /> Add a photo of its label
      </FileButton>
    </div>
  );
}

/** Where it stands, and which rooms it serves. */
function Place({
  device,
  records,
  save,
  setRecords,
}: {
  device: Device;
  records: Records;
  save: ReturnType<typeof useDevicePart>["save"];
  setRecords: (part: Partial<Records>) => void;
}) {
  const { house, room } = useRoom();
  const serves = device.serves ?? [];
  return (
    <fieldset className="border-t border-rule pt-1.5">
      <legend className="pr-2 font-semibold">Place</legend>
      <div className="grid grid-cols-[repeat(auto-fill,minmax(190px,1fr))] gap-x-4 gap-y-2">
        <div>
          <span className="label">It stands in</span>
          <Choice
            label="It stands in"
            value={device.room}
            onChange={(value) => save(() => ({ room: value, serves: serves.length ? serves : [room] }))}
            options={house.rooms.map((known) => ({ value: known.id, label: known.name }))}
          />
        </div>
        <Field
          label="Shelf, corner, height"
          value={records.stands ?? ""}
          onDone={(stands) => setRecords({ stands })}
        />
      </div>
      <div className="mt-1 flex flex-wrap gap-x-4">
        <span className="label self-center">It serves</span>
        {house.rooms
          .filter((known) => !known.rack)
          .map((known) => {
            const now = serves.length ? serves : [device.room];
            const served = now.includes(known.id);
            return (
              <label key={known.id} className="flex min-h-8 items-center gap-1.5">
                <input
                  type="checkbox"
                  className="size-4"
                  checked={served}
                  disabled={served && now.length === 1}
                  onChange={() =>
                    save(() => ({
                      serves: served ? now.filter((id) => id !== known.id) : [...now, known.id],
                    }))
                  }
                />
                {known.name}
              </label>
            );
          })}
      </div>
    </fieldset>
  );
}

/** Where it is on the network, and where commands go. */
function NetworkPart({
  network,
  setNetwork,
}: {
  network: Required<Network>;
  setNetwork: (part: Partial<Network>) => void;
}) {
  return (
    <fieldset className="mt-3 border-t border-rule pt-1.5">
      <legend className="pr-2 font-semibold">Network</legend>
      <div className="grid grid-cols-[repeat(auto-fill,minmax(150px,1fr))] gap-x-4 gap-y-2">
        <div>
          <span className="label">Connected</span>
          <Choice
            label="Connected"
            value={network.link}
            onChange={(link) => setNetwork({ link: link as Network["link"] })}
            options={LINKS.map(([value, label]) => ({ value, label }))}
          />
        </div>
        <Field label="IP address" value={network.ip} onDone={(ip) => setNetwork({ ip })} />
        <Field label="MAC address" value={network.mac} onDone={(mac) => setNetwork({ mac })} />
        <Field
          label="Port"
          value={network.port == null ? "" : String(network.port)}
          onDone={(text) => setNetwork({ port: portOf(text) })}
        />
        <label className="flex min-h-8 items-center gap-2 self-end">
          <input
            type="checkbox"
            className="size-4"
            checked={network.reserved}
            onChange={(event) => setNetwork({ reserved: event.target.checked })}
          />
          The address is reserved
        </label>
      </div>
      <div className="mt-2 grid grid-cols-[repeat(auto-fill,minmax(190px,1fr))] gap-x-4 gap-y-2">
        <div>
          <span className="label">The driver speaks</span>
          <Choice
            label="The driver speaks"
            value={network.talks ?? "model"}
            onChange={(talks) =>
              setNetwork({ talks: talks === "model" ? null : (talks as NonNullable<Network["talks"]>) })
            }
            options={TALKS.map(([value, label]) => ({ value, label }))}
          />
        </div>
        <Field
          label="Password of its protocol"
          value={network.password}
          onDone={(password) => setNetwork({ password })}
        />
        <Field
          label="Driven at (address:port; empty is the stand-in)"
          value={network.drive_at}
          onDone={(drive_at) => setNetwork({ drive_at })}
        />
      </div>
      {network.drive_at.trim() !== "" && !onThisMachine(network.drive_at) && (
        <label className="mt-1 flex min-h-8 items-center gap-2 text-caution">
          <input
            type="checkbox"
            className="size-4"
            checked={network.allowed === network.drive_at}
            onChange={(event) => setNetwork({ allowed: event.target.checked ? network.drive_at : "" })}
          />
          {network.drive_at} is outside this machine: commands of the rehearsal go to a real device there.
          Allow it.
        </label>
      )}
    </fieldset>
  );
}

/** Whether it works without the service of its maker. */
function NeedsCloud({
  records,
  setRecords,
}: {
  records: Records;
  setRecords: (part: Partial<Records>) => void;
}) {
  return (
    <div>
      <span className="label">Needs the maker's cloud</span>
      <Choice
        label="Needs the maker's cloud"
        value={records.needs_cloud == null ? "unknown" : records.needs_cloud ? "yes" : "no"}
        onChange={(value) => setRecords({ needs_cloud: value === "unknown" ? null : value === "yes" })}
        options={[
          { value: "unknown", label: "nobody knows" },
          { value: "no", label: "no" },
          { value: "yes", label: "yes" },
        ]}
      />
    </div>
  );
}
