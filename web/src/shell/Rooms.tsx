import { ChevronDown, ChevronUp } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { putOver } from "../api/entities";
import { useCopy, useEdit } from "../api/queries";
import type { HouseView, Room, RoomSummary } from "../api/types";
import { CourseLine } from "../shelf/CourseLine";
import { ProblemNote } from "../ui/Problem";
import { Sheet } from "../ui/Sheet";
import { AddRoom } from "./AddRoom";
import { RemoveRoom } from "./RemoveRoom";
import { useSummary } from "./rooms";
import { Menu, MenuItem, MenuLine } from "../ui/Menu";

/** A room as it is edited as one thing. */
export function cardOf(room: Room) {
  const { id, name, position, rack } = room;
  const adoption = room.rehearsal?.adoption;
  return { id, name, position, rack: rack ?? false, ...(adoption ? { adoption } : {}) };
}

/** The rooms of the house with what is done and what is to mend in each; changed, moved, added, doubled, removed. */
export function Rooms({
  open,
  onClose,
  house,
  room,
  stage,
  say,
}: {
  open: boolean;
  onClose: () => void;
  house: HouseView;
  room?: string;
  stage: string;
  say: (line: string) => void;
}) {
  const navigate = useNavigate();
  const goTo = (id: string) => {
    onClose();
    void navigate(`/houses/${house.house.id}/rooms/${id}/${stage}`);
  };
  return (
    <Sheet open={open} onClose={onClose} title={`Rooms of ${house.house.name}`} wide>
      <RoomList house={house} room={room} goTo={goTo} say={say} />
      <AddRoom house={house} say={say} onAdded={goTo} first={house.rooms.length === 0} />
    </Sheet>
  );
}

function RoomList({
  house,
  room,
  goTo,
  say,
}: {
  house: HouseView;
  room: string | undefined;
  goTo: (id: string) => void;
  say: (line: string) => void;
}) {
  const edit = useEdit(house.house.id);
  const copy = useCopy(house.house.id);
  const summary = useSummary(house.house.id, house.revision);
  const [open, setOpen] = useState<{ room: string; what: "rename" | "remove" }>();
  const save = (rooms: ReturnType<typeof cardOf>[]) =>
    edit.mutate(
      rooms.map((value) => putOver(house, { entity: "room", value })),
      { onSuccess: (saved) => say(saved.title) },
    );
  const swap = (at: number, by: number) => {
    const order = house.rooms.map(cardOf);
    const [own] = order.splice(at, 1);
    if (!own) return;
    order.splice(at + by, 0, own);
    const known = new Map(house.rooms.map((other) => [other.id, other.position]));
    save(
      order
        .map((card, position) => ({ ...card, position }))
        .filter((card) => card.position !== known.get(card.id)),
    );
  };
  const error = edit.error ?? copy.error;
  return (
    <>
      <ul>
        {house.rooms.map((own, at) => (
          <li key={own.id} className="border-b border-rule py-1.5">
            <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
              <button
                type="button"
                aria-current={own.id === room ? "true" : undefined}
                className={`min-h-8 min-w-40 flex-1 text-left text-[15.5px] font-semibold hover:text-accent ${own.id === room ? "text-accent" : ""}`}
                onClick={() => goTo(own.id)}
              >
                {own.name}
                {own.rack && <span className="pl-2 text-[13px] font-normal text-muted">cupboard</span>}
              </button>
              <Moves
                name={own.name}
                first={at === 0}
                last={at === house.rooms.length - 1}
                onMove={(by) => swap(at, by)}
              />
              <RoomMenu
                room={own}
                onRename={() => setOpen({ room: own.id, what: "rename" })}
                onRack={() => save([{ ...cardOf(own), rack: !own.rack }])}
                onCopy={() =>
                  copy.mutate(
                    { what: "room", id: own.id },
                    {
                      onSuccess: (saved) => {
                        say(saved.title);
                        if (saved.made) goTo(saved.made);
                      },
                    },
                  )
                }
                onRemove={() => setOpen({ room: own.id, what: "remove" })}
              />
            </div>
            <Said summary={summary.data?.rooms.find((known) => known.id === own.id)} />
            {open?.room === own.id && open.what === "rename" && (
              <Rename
                name={own.name}
                onClose={() => setOpen(undefined)}
                onSave={(name) => save([{ ...cardOf(own), name }])}
              />
            )}
            {open?.room === own.id && open.what === "remove" && (
              <RemoveRoom house={house} room={own} say={say} onClose={() => setOpen(undefined)} />
            )}
          </li>
        ))}
      </ul>
      {error && <ProblemNote text={error.message} />}
    </>
  );
}

/** How far the work in a room is, and the worst that there is to mend. */
function Said({ summary }: { summary: RoomSummary | undefined }) {
  if (!summary) return <p className="text-[13px] text-muted">being summed up …</p>;
  const { worst, next } = summary;
  return (
    <div className="flex flex-wrap items-center gap-x-4">
      <CourseLine stages={summary.stages} />
      <p
        className={`line-clamp-2 min-w-0 flex-1 basis-56 text-[13px] ${next ? "" : worst?.weight === "stops" ? "text-stop" : worst ? "text-caution" : "text-good"}`}
      >
        {next
          ? `${next.step} of ${next.of}: ${next.text}`
          : worst
            ? `${worst.title}: ${worst.text}`
            : "nothing to mend"}
      </p>
    </div>
  );
}

function Moves({
  name,
  first,
  last,
  onMove,
}: {
  name: string;
  first: boolean;
  last: boolean;
  onMove: (by: number) => void;
}) {
  return (
    <span className="flex">
      <button
        type="button"
        className="btn border-transparent px-2"
        aria-label={`${name} one place up`}
        disabled={first}
        onClick={() => onMove(-1)}
      >
        <ChevronUp aria-hidden size={16} />
      </button>
      <button
        type="button"
        className="btn border-transparent px-2"
        aria-label={`${name} one place down`}
        disabled={last}
        onClick={() => onMove(1)}
      >
        <ChevronDown aria-hidden size={16} />
      </button>
    </span>
  );
}

function RoomMenu({
  room,
  onRename,
  onRack,
  onCopy,
  onRemove,
}: {
  room: Room;
  onRename: () => void;
  onRack: () => void;
  onCopy: () => void;
  onRemove: () => void;
}) {
  return (
    <Menu label={`What to do with ${room.name}`}>
      <MenuItem onSelect={onRename}>Rename …</MenuItem>
      <MenuItem onSelect={onRack}>
        {room.rack ? "It is an ordinary room" : "It is a cupboard with equipment for others"}
      </MenuItem>
      <MenuItem onSelect={onCopy}>Duplicate with all that is in it</MenuItem>
      <MenuLine />
      <MenuItem onSelect={onRemove}>Remove …</MenuItem>
    </Menu>
  );
}

function Rename({
  name,
  onSave,
  onClose,
}: {
  name: string;
  onSave: (name: string) => void;
  onClose: () => void;
}) {
  const [typed, setTyped] = useState(name);
  return (
    <form
      className="mt-1 flex flex-wrap gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        onSave(typed);
        onClose();
      }}
    >
      <input
        className="field w-60"
        autoFocus
        maxLength={80}
        aria-label={`New name of ${name}`}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
      />
      <button type="submit" className="btn" disabled={typed.trim() === "" || typed === name}>
        Rename
      </button>
      <button type="button" className="link" onClick={onClose}>
        Leave it
      </button>
    </form>
  );
}
