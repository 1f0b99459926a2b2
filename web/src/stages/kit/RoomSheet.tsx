import { useState } from "react";
import { useNavigate } from "react-router";
import { put, useCopy, useEdit } from "../../api/queries";
import { roomName, useRoom } from "../../shell/context";
import { ProblemNote } from "../../ui/Problem";
import { Sheet } from "../../ui/Sheet";

/** The rooms of the house: renamed, added, duplicated with all that is in them, removed when empty. */
export function RoomSheet({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { house, room, say } = useRoom();
  const edit = useEdit(house.house.id);
  const copy = useCopy(house.house.id);
  const navigate = useNavigate();
  const current = house.rooms.find((known) => known.id === room);
  const [name, setName] = useState(roomName(house, room));
  const [fresh, setFresh] = useState("");
  const goTo = (id: string) => {
    onClose();
    void navigate(`/houses/${house.house.id}/rooms/${id}/kit`);
  };
  const error = edit.error ?? copy.error;
  if (!current) return null;
  const rename = (rack: boolean) =>
    edit.mutate([put({ entity: "room", value: { ...current, name, rack } }, house.versions[room])], {
      onSuccess: (saved) => say(saved.title),
    });
  const add = () => {
    const id = crypto.randomUUID() as string;
    const position = Math.max(-1, ...house.rooms.map((known) => known.position)) + 1;
    edit.mutate([put({ entity: "room", value: { id, name: fresh, position, rack: false } }, undefined)], {
      onSuccess: (saved) => {
        say(saved.title);
        goTo(id);
      },
    });
  };
  const duplicate = () =>
    copy.mutate(
      { what: "room", id: room },
      {
        onSuccess: (saved) => {
          say(saved.title);
          if (saved.made) goTo(saved.made);
        },
      },
    );
  const remove = () => {
    const other = house.rooms.find((known) => known.id !== room);
    edit.mutate([{ do: "remove", kind: "room", id: room, base: house.versions[room] ?? 0 }], {
      onSuccess: (saved) => {
        say(saved.title);
        if (other) goTo(other.id);
      },
    });
  };
  return (
    <Sheet open={open} onClose={onClose} title="Rooms">
      <div className="grid gap-4">
        <form
          noValidate
          className="grid gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            rename(current.rack ?? false);
          }}
        >
          <label>
            <span className="label">Name of this room</span>
            <input className="field" value={name} onChange={(event) => setName(event.target.value)} />
          </label>
          <label className="flex min-h-8 items-center gap-2">
            <input
              type="checkbox"
              className="size-4"
              checked={current.rack ?? false}
              onChange={(event) => rename(event.target.checked)}
            />
            It is a cupboard or a rack with equipment for other rooms
          </label>
          <div className="flex flex-wrap gap-2">
            <button type="submit" className="btn btn-main" disabled={edit.isPending || name === current.name}>
              Rename
            </button>
            <button type="button" className="btn" disabled={copy.isPending} onClick={duplicate}>
              Duplicate this room with all that is in it
            </button>
            <button type="button" className="btn text-stop" disabled={edit.isPending} onClick={remove}>
              Remove this room
            </button>
          </div>
        </form>
        <form
          noValidate
          className="grid gap-2 border-t border-rule pt-3"
          onSubmit={(event) => {
            event.preventDefault();
            add();
          }}
        >
          <label>
            <span className="label">Name of a new room</span>
            <input className="field" value={fresh} onChange={(event) => setFresh(event.target.value)} />
          </label>
          <div>
            <button type="submit" className="btn" disabled={edit.isPending}>
              Add room
            </button>
          </div>
        </form>
        {error && <ProblemNote text={error.message} />}
      </div>
    </Sheet>
  );
}
