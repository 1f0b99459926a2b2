import { many } from "../../ui/when";
import type { Cell } from "../../api/types";
import { deviceName, useRoom } from "../../shell/context";

/** What stands between a verdict and being relied on: what was not looked at, what cannot be sent, what needs a word. */
export function Limits({ cell }: { cell: Cell }) {
  const { house, go } = useRoom();
  const { not_proved: cut, cannot_be_sent: unsent, confirm } = cell;
  if (!cut && unsent.length === 0 && confirm.length === 0) return null;
  return (
    <ul aria-label="Limits of the verdict" className="my-1 border-l-4 border-caution bg-soft px-3 py-1.5">
      {unsent.map((one) => (
        <li key={one.device}>
          Nothing can be sent to {deviceName(house, one.device)}: {one.why}.{" "}
          <button
            type="button"
            className="link"
            onClick={() => go(one.hitch === "no-code" ? "codes" : "kit", { device: one.device })}
          >
            {one.hitch === "no-code" ? "Learn it in Codes" : "Mend it in Kit"}
          </button>
        </li>
      ))}
      {cut && (
        <li>
          {cut.devices.join(", ")} can be in too many states together: {many(cut.looked_at)} were looked at,{" "}
          {cut.left == null ? "more than can be counted" : many(cut.left)} were not.{" "}
          {cut.beyond_ours
            ? "What our own plans leave behind was looked at whole."
            : "No wrong end was found among them, and none is promised."}
        </li>
      )}
      {confirm.length > 0 && (
        <li>
          No sequence is right from everything that{" "}
          {confirm.map((device) => deviceName(house, device)).join(" and ")} may be in. The plan serves what
          is likeliest; it is sent only when somebody says so.
        </li>
      )}
    </ul>
  );
}
