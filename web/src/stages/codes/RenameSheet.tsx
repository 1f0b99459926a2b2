import { useState } from "react";
import { put, useEdit } from "../../api/queries";
import type { Device } from "../../api/types";
import { modelOf, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { ProblemNote } from "../../ui/Problem";
import { Sheet } from "../../ui/Sheet";
import { NameInput } from "./NameInput";
import { useTyped } from "../../ui/draft";

const NONE: Record<string, string> = {};

/** Renames many functions of a model at once, one by one or by exchanging a part of their names. */
export function RenameSheet({
  open,
  devices,
  onClose,
}: {
  open: boolean;
  devices: Device[];
  onClose: () => void;
}) {
  const { house, say } = useRoom();
  const edit = useEdit(house.house.id);
  const [chosen, setChosen] = useState("");
  const [find, setFind] = useState("");
  const [replace, setReplace] = useState("");
  const device = devices.find((known) => known.id === chosen) ?? devices[0];
  const [names, setNames] = useTyped<Record<string, string>>(`rename:${device?.id ?? ""}`, NONE);
  if (!device) return null;
  const model = modelOf(house, device);
  const nameOf = (id: string, old: string) => names[id] ?? old;
  const changed = model.functions.filter((fn) => nameOf(fn.id, fn.name) !== fn.name).length;
  const exchange = () => {
    if (!find) return;
    const next = { ...names };
    for (const fn of model.functions) next[fn.id] = nameOf(fn.id, fn.name).replaceAll(find, replace);
    setNames(next);
  };
  const save = () => {
    const functions = model.functions.map((fn) => ({ ...fn, name: nameOf(fn.id, fn.name) }));
    edit.mutate([put({ entity: "profile", value: { ...model, functions } }, house.versions[model.id])], {
      onSuccess: (saved) => {
        say(saved.title);
        setNames(NONE);
        onClose();
      },
    });
  };
  return (
    <Sheet open={open} onClose={onClose} title="Rename functions" wide>
      <form
        noValidate
        className="grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          save();
        }}
      >
        <div className="grid grid-cols-[1fr_1fr_1fr_auto] items-end gap-2">
          <div>
            <span className="label">Device</span>
            <Choice
              label="Device"
              value={device.id}
              onChange={setChosen}
              options={devices.map((known) => ({ value: known.id, label: known.name }))}
            />
          </div>
          <label>
            <span className="label">Exchange</span>
            <input className="field" value={find} onChange={(event) => setFind(event.target.value)} />
          </label>
          <label>
            <span className="label">for</span>
            <input className="field" value={replace} onChange={(event) => setReplace(event.target.value)} />
          </label>
          <button type="button" className="btn" onClick={exchange} disabled={!find}>
            Exchange
          </button>
        </div>
        <ul className="grid max-h-[46vh] grid-cols-2 gap-x-4 gap-y-1 overflow-auto">
          {model.functions.map((fn) => (
            <li key={fn.id} className="grid grid-cols-[1fr_1.3fr] items-center gap-2">
              <span className="truncate text-muted">{fn.name}</span>
              <NameInput
                label={`New name of ${fn.name}`}
                value={nameOf(fn.id, fn.name)}
                onChange={(value) => setNames({ ...names, [fn.id]: value })}
              />
            </li>
          ))}
        </ul>
        {edit.error && <ProblemNote text={edit.error.message} />}
        <div className="flex gap-2">
          <button type="submit" className="btn btn-main" disabled={changed === 0 || edit.isPending}>
            {changed === 0 ? "Rename" : `Rename ${changed}`}
          </button>
          <button type="button" className="btn" onClick={onClose}>
            Cancel
          </button>
        </div>
      </form>
    </Sheet>
  );
}
