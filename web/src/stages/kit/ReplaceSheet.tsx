import { useLibrary } from "../../api/queries";
import type { CellSaid, Device, MappedPart, Replacing, ReplacingView, RoomChanges } from "../../api/types";
import { modelOf, roomName, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { ProblemNote } from "../../ui/Problem";
import { forget, useTyped } from "../../ui/draft";
import { Sheet } from "../../ui/Sheet";
import { readyTime } from "../../ui/time";
import { choicesFor, useReplace, useReplacing, useReplacingEffect, usedParts } from "./replacing";

/** Nothing chosen by hand yet: one object, so that it is the same each time. */
const NOTHING: Record<string, string | null> = {};

/** Another model in the place of a device: what becomes of keys and sockets, what is lost, what it changes. */
export function ReplaceSheet({
  device,
  open,
  onClose,
}: {
  device: Device;
  open: boolean;
  onClose: () => void;
}) {
  const { house, say } = useRoom();
  const own = modelOf(house, device);
  const draft = `replace:${device.id}`;
  const [model, setModel] = useTyped(`${draft}:model`, "");
  const [chosen, setChosen] = useTyped(`${draft}:chosen`, NOTHING);
  const [stay, setStay] = useTyped(`${draft}:stay`, false);
  const asked: Replacing | undefined =
    open && model
      ? {
          model,
          codes_stay: stay,
          chosen: Object.entries(chosen).map(([id, to]) => ({ id, to })),
        }
      : undefined;
  const preview = useReplacing(house.house.id, device.id, asked, house.revision);
  const view = preview.data;
  const can = view !== undefined && !view.refused;
  const effect = useReplacingEffect(
    house.house.id,
    device.id,
    can && !preview.isPlaceholderData ? asked : undefined,
    house.revision,
  );
  const replace = useReplace(house.house.id, device.id);
  return (
    <Sheet open={open} onClose={onClose} title={`Replace ${device.name} by another model`} wide>
      <div className="grid gap-4">
        <ModelChoice
          device={device}
          value={model}
          onChange={(id) => {
            setModel(id);
            setChosen(NOTHING);
          }}
        />
        {!model && (
          <p className="text-muted">
            Its place, name, cables, activities and keys stay as far as the new model has them; before
            anything changes you see what does not.
          </p>
        )}
        {preview.error && <ProblemNote text={preview.error.message} />}
        {model && !view && !preview.error && <p role="status">Looking what becomes of its keys …</p>}
        {view && (
          <>
            <Places view={view} onChoose={(id, to) => setChosen({ ...chosen, [id]: to })} />
            <label className="flex items-center gap-2">
              <input type="checkbox" checked={stay} onChange={(event) => setStay(event.target.checked)} />
              The old remote works for it too: keep the codes of {own.maker} {own.model}
            </label>
            {view.refused ? (
              <ProblemNote text={`It cannot be put there yet: ${view.refused}`} />
            ) : (
              <>
                <Lost lost={view.lost} />
                <Effect rooms={effect.data} error={effect.error} />
              </>
            )}
          </>
        )}
        {replace.error && <ProblemNote text={replace.error.message} />}
        <div className="flex flex-wrap gap-2">
          <button
            type="button"
            className="btn btn-main"
            disabled={!asked || !can || replace.isPending}
            onClick={() =>
              asked &&
              replace.mutate(asked, {
                onSuccess: () => {
                  forget(draft);
                  say(`${view?.model} stands in for ${own.maker} ${own.model}. Undo brings that back.`);
                  onClose();
                },
              })
            }
          >
            Put {view?.model ?? "it"} in its place
          </button>
          <button type="button" className="btn" onClick={onClose}>
            Keep {own.maker} {own.model}
          </button>
        </div>
      </div>
    </Sheet>
  );
}

/** Which model: those of the same kind first. */
function ModelChoice({
  device,
  value,
  onChange,
}: {
  device: Device;
  value: string;
  onChange: (model: string) => void;
}) {
  const { house } = useRoom();
  const library = useLibrary(true);
  const own = modelOf(house, device);
  const known = new Set(house.profiles.map((one) => `${one.maker} ${one.model}`));
  const all = [
    ...house.profiles.map((one) => ({ one, hint: "in this house" })),
    ...(library.data ?? [])
      .filter((one) => !known.has(`${one.maker} ${one.model}`))
      .map((one) => ({ one, hint: "library" })),
  ].filter(({ one }) => one.id !== own.id);
  const same = all.filter(({ one }) => one.kind === own.kind);
  const others = all.filter(({ one }) => one.kind !== own.kind);
  return (
    <div>
      <span className="label">
        The model that takes the place of {own.maker} {own.model}
      </span>
      <Choice
        label="The new model"
        placeholder="Choose a model"
        value={value}
        onChange={onChange}
        options={[...same, ...others].map(({ one, hint }) => ({
          value: one.id,
          label: `${one.maker} ${one.model}`,
          hint,
        }))}
      />
    </div>
  );
}

const WHAT = { input: "Input", output: "Output", key: "Key" } as const;

/** What becomes of each key and socket that something uses. */
function Places({
  view,
  onChoose,
}: {
  view: ReplacingView;
  onChoose: (id: string, to: string | null) => void;
}) {
  const { changed, same } = usedParts(view);
  const used = changed.length + same.length;
  const spare = view.parts.length - used;
  const list = (parts: MappedPart[]) => (
    <ul className="mt-1 grid gap-2">
      {parts.map((part) => (
        <Place key={part.id} part={part} view={view} onChoose={onChoose} />
      ))}
    </ul>
  );
  return (
    <div>
      <h3 className="text-[15px] font-semibold">What becomes of what is used</h3>
      {used === 0 && <p className="text-muted">Nothing uses its keys or sockets yet.</p>}
      {changed.length > 0 && list(changed)}
      {same.length > 0 && (
        <details className="mt-1">
          <summary className="min-h-8 cursor-pointer py-1">
            {same.length === 1 ? "One goes" : `${same.length} go`} to what has the same name
          </summary>
          {list(same)}
        </details>
      )}
      {spare > 0 && (
        <p className="mt-1 text-[13px] text-muted">
          {spare === 1 ? "One more key or socket is" : `${spare} more keys and sockets are`} used by nothing.
        </p>
      )}
    </div>
  );
}

const NONE = "none";

function Place({
  part,
  view,
  onChoose,
}: {
  part: MappedPart;
  view: ReplacingView;
  onChoose: (id: string, to: string | null) => void;
}) {
  const label = `${WHAT[part.what]} ${part.name}`;
  return (
    <li className="grid items-center gap-x-3 border-b border-rule pb-2 sm:grid-cols-[1fr_14rem]">
      <span>
        <span className="text-muted">{WHAT[part.what]}</span>{" "}
        <span className="font-semibold">{part.name}</span>
        <span className="block text-[13px] text-muted">{part.used_by.join(", ")}</span>
      </span>
      <Choice
        label={`What takes the place of ${label}`}
        className={part.to ? "" : "border-caution"}
        value={part.to ?? NONE}
        onChange={(value) => onChoose(part.id, value === NONE ? null : value)}
        options={[
          { value: NONE, label: "nothing: it is lost" },
          ...choicesFor(view, part).map((choice) => ({ value: choice.id, label: choice.name })),
        ]}
      />
    </li>
  );
}

/** What is lost. */
function Lost({ lost }: { lost: string[] }) {
  if (lost.length === 0) return <p>Nothing is lost.</p>;
  return (
    <div className="border-l-4 border-caution bg-soft px-3 py-2">
      <h3 className="text-[15px] font-semibold">What is lost</h3>
      <ul className="list-disc pl-5">
        {lost.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </div>
  );
}

const commands = (sends: number) => (sends === 1 ? "1 command" : `${sends} commands`);

const cell = (said: CellSaid | null | undefined) =>
  said ? `${readyTime(said.ready_ms)}, ${commands(said.sends)}, ${said.verdict}` : "no such switch";

/** What it changes in plans and verdicts, room by room. */
function Effect({ rooms, error }: { rooms: RoomChanges[] | undefined; error: Error | null }) {
  const { house } = useRoom();
  if (error) return <ProblemNote text={error.message} />;
  if (!rooms) return <p role="status">Working out what it changes in plans and verdicts …</p>;
  return (
    <div>
      <h3 className="text-[15px] font-semibold">What it changes in plans and verdicts</h3>
      {rooms.map((room) => (
        <div key={room.room} className="mt-1">
          {room.changes.length === 0 ? (
            <p>{roomName(house, room.room)}: nothing.</p>
          ) : (
            <div className="scrolls">
              <table className="w-full text-left">
                <caption className="text-left text-[13px] text-muted">
                  {roomName(house, room.room)}
                  {room.unchanged > 0 && `: ${room.unchanged} more stay as they are`}
                </caption>
                <thead className="sr-only">
                  <tr>
                    <th>From and to</th>
                    <th>Before</th>
                    <th>After</th>
                  </tr>
                </thead>
                <tbody>
                  {room.changes.map((change) => (
                    <tr key={change.way} className="border-b border-rule align-top">
                      <th className="py-1 pr-3 font-semibold">{change.way}</th>
                      <td className="py-1 pr-3 text-muted">{cell(change.before)}</td>
                      <td className="py-1">{cell(change.after)}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          )}
        </div>
      ))}
    </div>
  );
}
