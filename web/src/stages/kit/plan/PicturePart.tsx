import type { RoomPicture } from "../../../api/types";
import { deviceName, useRoom } from "../../../shell/context";
import { seconds } from "../../../ui/time";
import { Waiting } from "../../../ui/Waiting";
import { lengthText } from "./geometry";
import { LengthField } from "./LengthField";
import { StopPosition } from "./StopPosition";

/** The picture as the seats see it: size, throw, light, sight lines, stop height. */
export function PicturePart({
  pictures,
  error,
  feet,
  bottomMm,
  onBottom,
  daylight,
  onDaylight,
  look,
  onLook,
}: {
  pictures: RoomPicture[] | undefined;
  error: Error | null;
  feet: boolean;
  bottomMm: number | undefined;
  onBottom: (mm: number | undefined) => void;
  daylight: boolean;
  onDaylight: (on: boolean) => void;
  look: string | undefined;
  onLook: (look: string | undefined) => void;
}) {
  const { house, room } = useRoom();
  const looks = house.rooms.find((one) => one.id === room)?.lighting?.looks ?? [];
  if (!pictures) return <Waiting what="the picture" error={error} />;
  const picture = pictures[0];
  if (!picture) {
    return (
      <p className="text-muted">
        Nothing that shows a picture stands on this plan, or nothing is known of its surface. Place the screen
        or the display below.
      </p>
    );
  }
  const m = (metres: number) => lengthText(metres * 1000, feet);
  return (
    <section aria-label="Picture">
      <p>
        <strong>{deviceName(house, picture.on)}</strong>: {m(picture.size_m[0] ?? 0)} by{" "}
        {m(picture.size_m[1] ?? 0)}, {(picture.diagonal_m / 0.0254).toFixed(0)} in across. A pixel is one arc
        minute from {m(picture.design_m)}.
      </p>
      <div className="mt-2 flex flex-wrap items-end gap-3">
        {picture.stop && (
          <LengthField
            label="Bottom edge above the floor"
            feet={feet}
            mm={bottomMm ?? Math.round(picture.bottom_m * 1000)}
            onMm={onBottom}
          />
        )}
        <label className="block">
          <span className="label">Light of the room</span>
          <select
            className="field w-40"
            value={look ?? ""}
            onChange={(event) => onLook(event.target.value || undefined)}
          >
            <option value="">dark</option>
            {looks.map((one) => (
              <option key={one.id} value={one.id}>
                {one.name}
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-1.5 pb-1.5">
          <input type="checkbox" checked={daylight} onChange={(event) => onDaylight(event.target.checked)} />
          daylight
        </label>
      </div>
      {picture.stop && (
        <p className="mt-2" data-testid="stop-height">
          {picture.stop.wrong ??
            (picture.stop.after_ms > 0
              ? `Stop at ${picture.stop.percent.toFixed(0)} % of the way, ${seconds(picture.stop.after_ms)} after leaving the upper limit, ± ${picture.stop.spread_percent.toFixed(1)} % (${(picture.stop.spread_m * 100).toFixed(0)} cm). A stop by time counts from a limit only.`
              : "All the way down, to its limit: exact.")}
        </p>
      )}
      {picture.stop && <StopPosition stop={picture.stop} />}
      {picture.throw && (
        <p className="mt-1" data-testid="throw">
          {deviceName(house, picture.throw.projector)}: {m(picture.throw.distance_m)} away, ratio{" "}
          {picture.throw.ratio.toFixed(2)} ({picture.throw.ratios[0]?.toFixed(2)} to{" "}
          {picture.throw.ratios[1]?.toFixed(2)}), shift {Math.abs(picture.throw.shift_percent[0]).toFixed(0)}{" "}
          % {picture.throw.shift_percent[0] < 0 ? "down" : "up"} of{" "}
          {picture.throw.shifts_percent[0]?.toFixed(0)} %.{" "}
          {picture.throw.fits && <span className="font-semibold text-good">It fits.</span>}
        </p>
      )}
      {picture.white != null && (
        <p className="mt-1">
          White is {picture.white.toFixed(0)} cd/m² straight ahead, {picture.ambient_lux.toFixed(0)} lx fall
          on the picture. Cinema white is 48 cd/m² (SMPTE ST 431-1).
        </p>
      )}
      {picture.seats.length > 0 && (
        <table className="mt-3 w-full border-collapse" aria-label="Seats">
          <thead>
            <tr className="border-b border-rule text-[13px] text-muted">
              <th className="py-1 text-left font-medium">Seats</th>
              <th className="py-1 pl-3 text-right font-medium">angle</th>
              <th className="py-1 pl-3 text-right font-medium">up</th>
              <th className="py-1 pl-3 text-right font-medium">px/°</th>
              <th className="py-1 pl-3 text-right font-medium">white, cd/m²</th>
              <th className="py-1 pl-3 text-right font-medium">contrast, : 1</th>
              <th className="py-1 pl-3 text-right font-medium">over heads</th>
            </tr>
          </thead>
          <tbody>
            {picture.seats.map((seat) => (
              <tr key={seat.name} className="border-b border-rule">
                <td className="py-1 pr-2">
                  {seat.name} <span className="text-muted">{m(seat.distance_m)}</span>
                </td>
                <td className="py-1 pl-3 text-right font-mono">{seat.wide_deg.toFixed(0)}°</td>
                <td className="py-1 pl-3 text-right font-mono">{seat.up_deg.toFixed(0)}°</td>
                <td className="py-1 pl-3 text-right font-mono">{seat.pixels_per_degree.toFixed(0)}</td>
                <td className="py-1 pl-3 text-right font-mono">
                  {seat.white == null ? "–" : seat.white.toFixed(0)}
                </td>
                <td className="py-1 pl-3 text-right font-mono">
                  {seat.contrast == null ? "–" : seat.contrast.toFixed(0)}
                </td>
                <td
                  className={`py-1 pl-3 text-right font-mono ${(seat.over_heads_m ?? 0) < 0 ? "font-semibold text-stop" : ""}`}
                >
                  {seat.over_heads_m == null ? "–" : `${(seat.over_heads_m * 100).toFixed(0)} cm`}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {picture.remarks.length > 0 && (
        <ul className="mt-2 list-disc pl-5" aria-label="Remarks on the picture">
          {picture.remarks.map((remark) => (
            <li key={remark}>{remark}</li>
          ))}
        </ul>
      )}
      <p className="mt-2 text-[13px] text-muted">
        Nobody looks into the beam of a projector; keep clear of what moves. What hangs from a ceiling is a
        matter of its load: local codes and licensed trades come first.
      </p>
    </section>
  );
}
