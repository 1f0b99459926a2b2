import { Plus, X } from "lucide-react";
import { useState } from "react";
import type { StartingPoint } from "../api/types";
import { ProblemNote } from "../ui/Problem";
import { Sheet } from "../ui/Sheet";
import { useTyped } from "../ui/draft";
import { StartChoice } from "./StartChoice";
import { useStartHouse } from "./api";

interface Typed {
  name: string;
  client: string;
  note: string;
  rooms: { name: string; start: StartingPoint }[];
}

const BLANK: Typed = { name: "", client: "", note: "", rooms: [{ name: "", start: "cinema" }] };

/** Names that a room has where nobody has typed one. */
const USUAL: Record<StartingPoint, string> = {
  cinema: "Cinema",
  "living-room": "Living room",
  bedroom: "Bedroom",
  terrace: "Terrace",
  empty: "Room",
};

/** Starts a house: a name and its rooms, each with what it begins with. */
export function StartHouse({
  open,
  onClose,
  onStarted,
}: {
  open: boolean;
  onClose: () => void;
  onStarted: (house: string, room?: string | null) => void;
}) {
  return (
    <Sheet open={open} onClose={onClose} title="Start a house" wide>
      <StartForm onClose={onClose} onStarted={onStarted} />
    </Sheet>
  );
}

function StartForm({
  onClose,
  onStarted,
}: {
  onClose: () => void;
  onStarted: (house: string, room?: string | null) => void;
}) {
  const start = useStartHouse();
  const [typed, setTyped] = useTyped("start-house", BLANK);
  const [trouble, setTrouble] = useState("");
  const submit = () => {
    if (typed.name.trim() === "") return setTrouble("Name of the house: give it a name.");
    const rooms = typed.rooms.map((room) => ({ ...room, name: room.name.trim() || USUAL[room.start] }));
    start.mutate(
      { ...typed, rooms },
      {
        onSuccess: (made) => {
          setTyped(BLANK);
          onStarted(made.house, made.room);
        },
        onError: (error) => setTrouble(error.message),
      },
    );
  };
  return (
    <form
      className="grid gap-3"
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        submit();
      }}
    >
      <div className="grid gap-3 sm:grid-cols-2">
        <label>
          <span className="label">Name of the house</span>
          <input
            className="field"
            autoFocus
            maxLength={80}
            value={typed.name}
            onChange={(event) => setTyped({ ...typed, name: event.target.value })}
          />
        </label>
        <label>
          <span className="label">Client (may stay empty)</span>
          <input
            className="field"
            maxLength={200}
            value={typed.client}
            onChange={(event) => setTyped({ ...typed, client: event.target.value })}
          />
        </label>
      </div>
      <RoomRows rooms={typed.rooms} onChange={(rooms) => setTyped({ ...typed, rooms })} />
      {trouble && <ProblemNote text={trouble} />}
      <div className="flex gap-2">
        <button type="submit" className="btn btn-main" disabled={start.isPending}>
          Start the house
        </button>
        <button type="button" className="btn" onClick={onClose}>
          Later
        </button>
      </div>
    </form>
  );
}

function RoomRows({ rooms, onChange }: { rooms: Typed["rooms"]; onChange: (rooms: Typed["rooms"]) => void }) {
  const set = (at: number, part: Partial<Typed["rooms"][number]>) =>
    onChange(rooms.map((room, index) => (index === at ? { ...room, ...part } : room)));
  return (
    <fieldset>
      <legend className="label">Rooms, and what each begins with</legend>
      <ul className="grid gap-2">
        {rooms.map((room, at) => {
          return (
            <li
              key={at}
              className="grid grid-cols-[1fr_auto] items-start gap-2 sm:grid-cols-[1fr_1.3fr_auto]"
            >
              <input
                className="field"
                aria-label={`Name of room ${at + 1}`}
                placeholder={USUAL[room.start]}
                maxLength={80}
                value={room.name}
                onChange={(event) => set(at, { name: event.target.value })}
              />
              <div className="max-sm:col-span-2 max-sm:row-start-2">
                <StartChoice
                  label={`What room ${at + 1} begins with`}
                  value={room.start}
                  onChange={(start) => set(at, { start })}
                />
              </div>
              <button
                type="button"
                className="btn px-2"
                aria-label={`Leave room ${at + 1} out`}
                onClick={() => onChange(rooms.filter((_, index) => index !== at))}
              >
                <X aria-hidden size={15} />
              </button>
            </li>
          );
        })}
      </ul>
      <button
        type="button"
        className="btn mt-2"
        onClick={() => onChange([...rooms, { name: "", start: "empty" }])}
      >
        <Plus aria-hidden size={15} /> Another room
      </button>
    </fieldset>
  );
}
