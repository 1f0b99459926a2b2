import { useState } from "react";
import { overridesOf } from "../../../api/overrides";
import { putOver } from "../../../api/entities";
import { useEdit } from "../../../api/queries";
import type { NamedStop, RoomPicture } from "../../../api/types";
import { profileOf, useRoom } from "../../../shell/context";
import { ProblemNote } from "../../../ui/Problem";
import { seconds } from "../../../ui/time";

/** Heights at which a screen is stopped by time: each is a position of this screen that activities can ask for. */
export function StopPosition({ stop }: { stop: NonNullable<RoomPicture["stop"]> }) {
  const { house } = useRoom();
  const edit = useEdit(house.house.id);
  const [name, setName] = useState("");
  const device = house.devices.find((one) => one.id === stop.screen);
  const model = house.profiles.find((one) => one.id === device?.profile);
  if (!device || !model) return null;
  const profile = profileOf(house, device);
  const stops = profile.stops ?? [];
  const keep = (stops: NamedStop[], then?: () => void) =>
    edit.mutate(
      [
        putOver(house, {
          entity: "device",
          value: { ...device, overrides: overridesOf(model, { ...profile, stops }) },
        }),
      ],
      { onSuccess: then },
    );
  const taken = stops.some((one) => one.name.toLowerCase() === name.trim().toLowerCase());
  const { position } = stop;
  return (
    <div className="mt-2" data-testid="stop-position">
      {position && (
        <form
          className="flex flex-wrap items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (name.trim() && !taken)
              keep([...stops, { ...position, name: name.trim() }], () => setName(""));
          }}
        >
          <label className="block">
            <span className="label">Keep this height as</span>
            <input
              className="field w-40"
              placeholder="Scope"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
          </label>
          <button type="submit" className="btn" disabled={!name.trim() || taken}>
            Keep as a position
          </button>
          {taken && <span className="pb-1.5 text-[13px] text-stop">There is a position of this name.</span>}
        </form>
      )}
      {stop.no_position && <p className="text-muted">{stop.no_position}</p>}
      {stops.length > 0 && (
        <ul className="mt-2" aria-label="Positions of this screen">
          {stops.map((one, at) => (
            <li key={one.name} className="flex items-baseline gap-3 py-0.5">
              <span className="min-w-0 flex-1">
                “{one.name}”: {one.down_percent} % down
                {one.timed
                  ? `, stopped ${seconds(one.timed.after_ms)} after the upper limit, ± ${(one.timed.spread_per_mille / 10).toFixed(1)} %`
                  : ", by a key of its own"}
              </span>
              {one.timed && (
                <button
                  type="button"
                  className="link"
                  aria-label={`Remove position ${one.name}`}
                  onClick={() => keep(stops.filter((_, other) => other !== at))}
                >
                  Remove
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
      {stops.some((one) => one.timed) && (
        <p className="text-[13px] text-muted">
          An activity asks for it where it moves the screen, in Sequences. From anywhere but its upper limit
          the screen goes there first; the plan is proved with the spread.
        </p>
      )}
      {edit.error && <ProblemNote text={edit.error.message} />}
    </div>
  );
}
