import { useState } from "react";
import { put, useEdit } from "../../api/queries";
import type { Device } from "../../api/types";
import { modelOf, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { ProblemNote } from "../../ui/Problem";
import { Sheet } from "../../ui/Sheet";
import { NameInput } from "./NameInput";
import { useTyped } from "../../ui/draft";

/** Adds a function to the model of a device. */
export function AddFunction({
  open,
  devices,
  onClose,
  onAdded,
}: {
  open: boolean;
  devices: Device[];
  onClose: () => void;
  onAdded: (device: string, fn: string) => void;
}) {
  const { house, say } = useRoom();
  const edit = useEdit(house.house.id);
  const [name, setName] = useTyped("function:new", "");
  const [chosen, setChosen] = useState("");
  const device = devices.find((known) => known.id === chosen) ?? devices[0];
  const add = () => {
    if (!device) return;
    const profile = modelOf(house, device);
    const fn = { id: crypto.randomUUID() as string, name };
    const value = { ...profile, functions: [...profile.functions, fn] };
    edit.mutate([put({ entity: "profile", value }, house.versions[profile.id])], {
      onSuccess: (saved) => {
        say(saved.title);
        setName("");
        onAdded(device.id, fn.id);
      },
    });
  };
  return (
    <Sheet open={open} onClose={onClose} title="Add function">
      <form
        className="grid gap-3"
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          add();
        }}
      >
        <div>
          <span className="label">Device</span>
          <Choice
            label="Device"
            value={device?.id ?? ""}
            onChange={setChosen}
            options={devices.map((known) => ({ value: known.id, label: known.name }))}
          />
        </div>
        <label>
          <span className="label">Name, as on the key</span>
          <NameInput autoFocus value={name} onChange={setName} />
        </label>
        {edit.error && <ProblemNote text={edit.error.message} />}
        <div className="flex gap-2">
          <button type="submit" className="btn btn-main" disabled={edit.isPending || !device}>
            Add function
          </button>
          <button type="button" className="btn" onClick={onClose}>
            Cancel
          </button>
        </div>
      </form>
    </Sheet>
  );
}
