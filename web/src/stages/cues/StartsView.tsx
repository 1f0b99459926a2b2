import type { Start } from "../../api/types";
import { deviceName, useRoom } from "../../shell/context";
import { Waiting } from "../../ui/Waiting";
import { useCueSheet } from "./api";
import { WAY } from "./lighting";

const DOES: Record<Start["transport"], string> = { playing: "starts", paused: "pauses", stopped: "stops" };

/** For each source, every way in which playback can start, pause and stop, against the cues that catch it. */
export function StartsView() {
  const { house } = useRoom();
  const sheet = useCueSheet();
  if (!sheet.data) return <Waiting what="the ways of starting" error={sheet.error} />;
  const { starts, lines } = sheet.data;
  const holes = starts.filter((start) => start.caught_by.length === 0).length;
  if (starts.length === 0)
    return (
      <p className="border-t border-ink py-2 text-muted">No source with a picture plays in this room.</p>
    );
  return (
    <>
      <p className="max-w-[75ch]">
        Playback starts in more ways than the play key. A cue on a key catches that key alone; a source that
        says what it does catches every way.{" "}
        <strong>
          {holes === 0 ? "Every way is caught." : `${holes} of ${starts.length} ways are caught by nothing.`}
        </strong>
      </p>
      <div className="scrolls">
        <table className="mt-2 w-full border-collapse" aria-label="Ways of starting">
          <thead>
            <tr className="border-b border-ink text-left text-[13.5px] text-muted">
              {["Source", "Playback", "How", "Caught by"].map((head) => (
                <th key={head} scope="col" className="py-1 pr-3 font-medium">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {starts.map((start, at) => {
              const before = starts[at - 1];
              const same = before?.device === start.device;
              const caught = start.caught_by.map(
                (id) => lines.find((line) => line.cue === id)?.moment ?? "a cue",
              );
              return (
                <tr
                  key={`${start.device} ${start.transport} ${start.way}`}
                  className={`align-top ${same ? "border-t border-rule" : "border-t border-edge"}`}
                  data-way={start.way}
                >
                  <th scope="row" className="py-1.5 pr-3 text-left font-semibold whitespace-nowrap">
                    {same ? (
                      <span className="sr-only">{deviceName(house, start.device)}</span>
                    ) : (
                      deviceName(house, start.device)
                    )}
                  </th>
                  <td className="py-1.5 pr-3">
                    {same && before?.transport === start.transport ? "" : DOES[start.transport]}
                  </td>
                  <td className="py-1.5 pr-3 whitespace-nowrap">{WAY[start.way]}</td>
                  <td className="py-1.5">
                    {caught.length > 0 ? (
                      <span className="text-good">{caught.join(", ")}</span>
                    ) : (
                      <>
                        <strong className="text-caution">nothing.</strong>{" "}
                        <span className="text-muted">{start.remedy}</span>
                      </>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </>
  );
}
