import { useState } from "react";
import { put, useCopy, useEdit, useLibrary } from "../../api/queries";
import type { DeviceKind } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { ProblemNote } from "../../ui/Problem";
import { Sheet } from "../../ui/Sheet";
import { newProfile } from "./form";
import { KINDS } from "./words";
import { forget, useTyped } from "../../ui/draft";
import { missing } from "../../ui/missing";

const NEW = "new";

/** A model of the library, which is copied first. */
const SHIPPED = "library ";

/** Adds a device: of a model that the house knows, or of a new one with figures of common practice. */
export function AddDevice({
  open,
  onClose,
  onAdded,
}: {
  open: boolean;
  onClose: () => void;
  onAdded: (id: string) => void;
}) {
  const { house, room, devices, say } = useRoom();
  const edit = useEdit(house.house.id);
  const draft = `device:new ${room}`;
  const [name, setName] = useTyped(`${draft}:name`, "");
  const [model, setModel] = useTyped(`${draft}:model`, NEW);
  const [kind, setKind] = useTyped<DeviceKind>(`${draft}:kind`, "display");
  const [maker, setMaker] = useTyped(`${draft}:maker`, "");
  const [type, setType] = useTyped(`${draft}:type`, "");

  const copy = useCopy(house.house.id);
  const library = useLibrary(open);
  const lacks = missing([
    ["a name in this room", name.trim() !== ""],
    ["its maker", model !== NEW || maker.trim() !== ""],
    ["its model name", model !== NEW || type.trim() !== ""],
  ]);
  const [told, setTold] = useState(false);
  const add = async () => {
    setTold(lacks !== undefined);
    if (lacks) return;
    const shipped = model.startsWith(SHIPPED) ? model.slice(SHIPPED.length) : undefined;
    const taken = shipped
      ? await copy.mutateAsync({ what: "model", id: shipped }).catch(() => undefined)
      : undefined;
    if (shipped && !taken) return;
    const device = {
      id: crypto.randomUUID() as string,
      room,
      profile: taken?.made ?? model,
      name,
      position: Math.max(-1, ...devices.map((known) => known.position)) + 1,
    };
    const profile = model === NEW ? newProfile(kind, maker, type) : undefined;
    if (profile) device.profile = profile.id;
    const edits = [
      ...(profile ? [put({ entity: "profile", value: profile }, undefined)] : []),
      put({ entity: "device", value: device }, undefined),
    ];
    edit.mutate(edits, {
      onSuccess: (saved) => {
        say(saved.title);
        forget(draft);
        setName("");
        onAdded(device.id);
      },
    });
  };
  return (
    <Sheet open={open} onClose={onClose} title="Add device">
      <form
        className="grid gap-3"
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          void add();
        }}
      >
        <label>
          <span className="label">Name in this room</span>
          <input className="field" value={name} autoFocus onChange={(event) => setName(event.target.value)} />
        </label>
        <div>
          <span className="label">Model</span>
          <Choice
            label="Model"
            value={model}
            onChange={setModel}
            options={[
              { value: NEW, label: "A new model" },
              ...house.profiles.map((known) => ({ value: known.id, label: `${known.maker} ${known.model}` })),
              ...(library.data ?? []).map((known) => ({
                value: SHIPPED + known.id,
                label: `${known.maker} ${known.model}`,
                hint: "library",
              })),
            ]}
          />
        </div>
        {model === NEW && (
          <>
            <div>
              <span className="label">What it is</span>
              <Choice
                label="What it is"
                value={kind}
                onChange={(value) => setKind(value as DeviceKind)}
                options={KINDS.map(([value, label]) => ({ value, label }))}
              />
            </div>
            <div className="grid grid-cols-2 gap-3">
              <label>
                <span className="label">Maker</span>
                <input className="field" value={maker} onChange={(event) => setMaker(event.target.value)} />
              </label>
              <label>
                <span className="label">Model name</span>
                <input className="field" value={type} onChange={(event) => setType(event.target.value)} />
              </label>
            </div>
            <p className="text-[13px] text-muted">
              It starts with times of common practice, marked as assumed. Its row opens to change them.
            </p>
          </>
        )}
        {told && lacks && <ProblemNote text={lacks} />}
        {(edit.error ?? copy.error) && <ProblemNote text={(edit.error ?? copy.error)?.message ?? ""} />}
        <div className="flex gap-2">
          <button type="submit" className="btn btn-main" disabled={edit.isPending}>
            Add device
          </button>
          <button type="button" className="btn" onClick={onClose}>
            Cancel
          </button>
        </div>
      </form>
    </Sheet>
  );
}
