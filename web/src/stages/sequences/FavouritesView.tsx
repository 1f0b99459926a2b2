import { useFavourites } from "../../api/queries";
import type { Activity } from "../../api/types";
import { deviceName, useRoom } from "../../shell/context";
import { clockTime, seconds } from "../../ui/time";
import { Waiting } from "../../ui/Waiting";

/** The favourites of an activity as the presses that they stand for. */
export function FavouritesView({ activity }: { activity: Activity }) {
  const { house } = useRoom();
  const favourites = useFavourites(house.house.id, activity.id);
  if (!favourites.data) return <Waiting what="the favourites" error={favourites.error} />;
  if (favourites.data.length === 0)
    return (
      <p className="border-t border-rule py-4 text-muted">
        {activity.name} has no favourites: a channel, an app, a skip or some steps of volume that are one
        press away. Add them with <em>Edit activity</em>.
      </p>
    );
  return (
    <ul className="max-w-[900px]">
      {favourites.data.map((one) => (
        <li key={one.name} className="border-b border-rule py-2">
          <p>
            <strong>{one.name}</strong>{" "}
            <span className={one.works ? "text-muted" : "text-stop"}>
              {one.note} {one.steps.length > 0 && `${one.steps.length} presses in ${seconds(one.ends_ms)}.`}
            </span>
          </p>
          <ol className="mt-1 flex flex-wrap gap-x-4 gap-y-1">
            {one.steps.map((step, index) => (
              <li key={index}>
                <span className="font-mono text-[13px] text-muted">{clockTime(step.start_ms)}</span>{" "}
                {deviceName(house, step.device)}: {step.name}
              </li>
            ))}
          </ol>
        </li>
      ))}
    </ul>
  );
}
