import { useState } from "react";
import { putOver } from "../api/entities";
import { useEdit, useHouse } from "../api/queries";
import type { House, HouseView } from "../api/types";
import { ProblemNote } from "../ui/Problem";
import { Sheet } from "../ui/Sheet";
import { forget, useTyped } from "../ui/draft";

/** What is said of a house: its name, whose it is, and whom to call. */
export function HouseCard({
  house,
  onClose,
  say,
}: {
  house: string;
  onClose: () => void;
  say: (line: string) => void;
}) {
  const view = useHouse(house);
  return (
    <Sheet open onClose={onClose} title="The house">
      {view.data ? (
        <CardForm view={view.data} onClose={onClose} say={say} />
      ) : (
        <p role="status">{view.error?.message ?? "Reading the house …"}</p>
      )}
    </Sheet>
  );
}

function CardForm({
  view,
  onClose,
  say,
}: {
  view: HouseView;
  onClose: () => void;
  say: (line: string) => void;
}) {
  const known: House = view.house;
  const edit = useEdit(known.id);
  const saved = {
    name: known.name,
    note: known.note ?? "",
    client: known.client ?? "",
    programmer: known.programmer?.name ?? "",
    phone: known.programmer?.phone ?? "",
  };
  const [typed, setTyped] = useTyped(`house:${known.id}`, saved);
  const [trouble, setTrouble] = useState("");
  const field = (key: keyof typeof typed, label: string, hint?: string, max = 200) => (
    <label>
      <span className="label">{label}</span>
      <input
        className="field"
        maxLength={max}
        value={typed[key]}
        onChange={(event) => setTyped({ ...typed, [key]: event.target.value })}
      />
      {hint && <span className="text-[13px] text-muted">{hint}</span>}
    </label>
  );
  const save = () => {
    if (typed.name.trim() === "") return setTrouble("Name: give the house a name.");
    const { name, note, client, programmer, phone } = typed;
    const value: House = { ...known, name, note, client, programmer: { name: programmer, phone } };
    edit.mutate([putOver(view, { entity: "house", value })], {
      onSuccess: (done) => {
        forget(`house:${known.id}`);
        say(done.title);
        onClose();
      },
      onError: (error) => setTrouble(error.message),
    });
  };
  return (
    <form
      className="grid gap-3"
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      {field("name", "Name", undefined, 80)}
      {field("client", "Client")}
      {field("note", "Note", "What you want to know of it at a glance.")}
      {field("programmer", "Programmer", "Surfaces and papers say whom to call where something is wrong.")}
      {field("phone", "Telephone number of the programmer")}
      {trouble && <ProblemNote text={trouble} />}
      <div className="flex gap-2">
        <button type="submit" className="btn btn-main" disabled={edit.isPending}>
          Save
        </button>
        <button
          type="button"
          className="btn"
          onClick={() => {
            setTyped(saved);
            onClose();
          }}
        >
          Throw away what I typed
        </button>
      </div>
    </form>
  );
}
