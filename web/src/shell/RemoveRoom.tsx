import type { HouseView, Room } from "../api/types";
import { ProblemNote } from "../ui/Problem";
import { useRemoveRoom, useWhatGoes } from "./rooms";

const counted = (many: number, one: string, more: string) =>
  many === 0 ? [] : [many === 1 ? `1 ${one}` : `${many} ${more}`];

/** Says what goes with a room, and removes it in one step. */
export function RemoveRoom({
  house,
  room,
  say,
  onClose,
}: {
  house: HouseView;
  room: Room;
  say: (line: string) => void;
  onClose: () => void;
}) {
  const going = useWhatGoes(house.house.id, room.id, house.revision);
  const remove = useRemoveRoom(house.house.id);
  const { data } = going;
  if (!data) return <p role="status">{going.error?.message ?? "Looking what goes with it …"}</p>;
  const parts = [
    ...counted(data.devices.length, "device", "devices"),
    ...counted(data.codes, "code", "codes"),
    ...counted(data.activities.length, "activity", "activities"),
    ...counted(data.cues, "line of the cue sheet", "lines of the cue sheet"),
    ...counted(data.surfaces, "surface", "surfaces"),
    ...counted(data.stories, "story", "stories"),
  ];
  return (
    <div
      role="group"
      aria-label={`Remove ${room.name}`}
      className="mt-1 border-l-4 border-stop bg-soft px-3 py-2"
    >
      <p>
        {parts.length === 0 ? "Nothing is in it." : `With it go ${parts.join(", ")}.`}
        {data.devices.length > 0 && <span className="text-muted"> {data.devices.join(", ")}.</span>}
      </p>
      {data.moved.map((moved) => (
        <p key={moved.device}>
          {moved.device} stays: {moved.room} uses it, and it stands there from then on.
        </p>
      ))}
      {remove.error && <ProblemNote text={remove.error.message} />}
      <div className="mt-1 flex flex-wrap gap-3">
        <button
          type="button"
          className="btn text-stop"
          disabled={remove.isPending}
          onClick={() =>
            remove.mutate(room.id, {
              onSuccess: (saved) => {
                say(`${saved.title}. Undo brings all of it back.`);
                onClose();
              },
            })
          }
        >
          Remove {room.name}
        </button>
        <button type="button" className="link" onClick={onClose}>
          Keep it
        </button>
      </div>
    </div>
  );
}
