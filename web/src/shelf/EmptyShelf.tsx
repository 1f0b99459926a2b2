import { useDemoHouse } from "./api";

/** What an empty shelf offers. */
export function EmptyShelf({
  onStart,
  onOpen,
  fail,
}: {
  onStart: () => void;
  onOpen: (house: string, room?: string | null) => void;
  fail: (line: string) => void;
}) {
  const demo = useDemoHouse();
  return (
    <div className="mx-auto mt-16 max-w-xl border-l-4 border-accent bg-soft px-5 py-4">
      <h3 className="text-[17px]">The shelf is empty</h3>
      <p className="mt-1">
        Start a house: give it a name and its rooms, and let a room begin with a cinema, a living room, a
        bedroom or a terrace. Its first plan stands at once; then you make it true.
      </p>
      <div className="mt-3 flex flex-wrap gap-2">
        <button type="button" className="btn btn-main" onClick={onStart}>
          Start a house
        </button>
        <button
          type="button"
          className="btn"
          disabled={demo.isPending}
          onClick={() =>
            demo.mutate(undefined, {
              onSuccess: (made) => onOpen(made.house, made.room),
              onError: (error) => fail(error.message),
            })
          }
        >
          Look at the demo house
        </button>
      </div>
    </div>
  );
}
