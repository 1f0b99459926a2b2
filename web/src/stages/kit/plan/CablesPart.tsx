import { deviceName, useRoom } from "../../../shell/context";
import { useCables } from "./api";
import { lengthText } from "./geometry";

/** How long the cables of the wiring are along walls and ceiling, where both ends are placed. */
export function CablesPart({ feet }: { feet: boolean }) {
  const { house } = useRoom();
  const cables = useCables().data ?? [];
  if (cables.length === 0) return null;
  return (
    <section aria-label="Cables" className="mt-4 border-t border-rule pt-2">
      <h3 className="text-[15px]">Cables</h3>
      <p className="text-[13px] text-muted">
        Along walls and ceiling, never through the air, with a tenth to spare. What a passive cable of its
        kind may be is common practice. A mains plug needs its cable too: that is for a licensed electrician.
      </p>
      <ul>
        {cables.map((cable) => {
          const own = house.connections.find((one) => one.id === cable.connection);
          if (!own) return null;
          const long = cable.most_m != null && cable.metres > cable.most_m;
          return (
            <li key={cable.connection} className="flex items-baseline gap-3 py-0.5">
              <span className="min-w-0 flex-1">
                {deviceName(house, own.from_device)} → {deviceName(house, own.to_device)}
              </span>
              <span className={`font-mono ${long ? "font-semibold text-stop" : ""}`}>
                {lengthText(cable.metres * 1000, feet)}
                {long && `, at most ${lengthText((cable.most_m ?? 0) * 1000, feet)}`}
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
