import { Plus } from "lucide-react";
import type { HouseView, StartingPoint } from "../api/types";
import { StartChoice } from "../shelf/StartChoice";
import { useTyped } from "../ui/draft";
import { ProblemNote } from "../ui/Problem";
import { useAddRoom } from "./rooms";

const BLANK: { name: string; start: StartingPoint } = { name: "", start: "empty" };

/** Adds a room: its name, and what it begins with. */
export function AddRoom({
  house,
  say,
  onAdded,
  first,
}: {
  house: HouseView;
  say: (line: string) => void;
  onAdded: (room: string) => void;
  /** Is it the first one of the house? */
  first: boolean;
}) {
  const add = useAddRoom(house.house.id);
  const [typed, setTyped] = useTyped(`room:${house.house.id}`, BLANK);
  return (
    <form
      noValidate
      className="grid gap-2 pt-3"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate(typed, {
          onSuccess: (saved) => {
            setTyped(BLANK);
            say(saved.title);
            if (saved.made) onAdded(saved.made);
          },
        });
      }}
    >
      {first && <p>This house has no room yet. Add the first one.</p>}
      <div className="grid gap-2 sm:grid-cols-2">
        <label>
          <span className="label">Name of a new room</span>
          <input
            className="field"
            maxLength={80}
            value={typed.name}
            onChange={(event) => setTyped({ ...typed, name: event.target.value })}
          />
        </label>
        <div>
          <span className="label">It begins with</span>
          <StartChoice
            label="What the new room begins with"
            value={typed.start}
            onChange={(start) => setTyped({ ...typed, start })}
          />
        </div>
      </div>
      <div>
        <button type="submit" className={`btn ${first ? "btn-main" : ""}`} disabled={add.isPending}>
          <Plus aria-hidden size={15} /> Add the room
        </button>
      </div>
      {add.error && <ProblemNote text={add.error.message} />}
    </form>
  );
}
