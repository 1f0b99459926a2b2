import type { DeviceView, RehearsalView } from "../../api/types";
import { profileOf, useRoom } from "../../shell/context";
import { seconds } from "../../ui/time";

const POWER: Record<DeviceView["power"], string> = {
  off: "off",
  starting: "starting up",
  on: "on",
  cooling: "off, cooling",
  always: "always on",
};

/** The devices as they are, and what the runtime believes of them. */
export function Standing({ view }: { view: RehearsalView }) {
  const { house, devices } = useRoom();
  return (
    <>
      <h3 className="mt-3 text-[16px]">The room as it stands</h3>
      <table className="w-full border-collapse">
        <thead>
          <tr className="border-b border-ink text-[13.5px] text-muted">
            <th scope="col" className="py-1 pr-3 font-medium">
              Device
            </th>
            <th scope="col" className="py-1 pr-3 font-medium">
              Is
            </th>
            <th scope="col" className="py-1 pr-3 font-medium">
              Input
            </th>
            <th scope="col" className="py-1 pr-3 font-medium">
              Doing
            </th>
            <th scope="col" className="py-1 font-medium">
              The runtime believes
            </th>
          </tr>
        </thead>
        <tbody>
          {devices.map((device) => {
            const state = view.devices.find((known) => known.device === device.id);
            if (!state) return null;
            const profile = profileOf(house, device);
            const left = state.busy_until_ms ? Math.max(0, state.busy_until_ms - view.now_ms) : 0;
            const input = profile.inputs.find((known) => known.id === state.input)?.name;
            const marked = profile.inputs.find((known) => known.id === state.marked)?.name;
            const follows = profile.power.how === "follows";
            const moves = state.down_percent !== null && state.down_percent !== undefined;
            return (
              <tr key={device.id} className="border-b border-rule" data-standing={device.name}>
                <th scope="row" className="py-1 pr-3 font-semibold">
                  {device.name}
                </th>
                <td className="py-1 pr-3">
                  {moves
                    ? `${state.down_percent} % down`
                    : follows
                      ? "follows its trigger"
                      : POWER[state.power]}
                </td>
                <td className="py-1 pr-3">
                  {input ?? "–"}
                  {marked && <span className="text-muted"> (list at {marked})</span>}
                </td>
                <td className="py-1 pr-3 text-muted">
                  {state.doing ? `${state.doing}, ${seconds(left)} left` : "–"}
                </td>
                <td className="py-1">{view.beliefs.find((belief) => belief.device === device.id)?.text}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}
