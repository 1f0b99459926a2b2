import { surfaceRule } from "../../api/rules";
import type { Cover, Surface } from "../../api/types";
import { deviceName, useRoom } from "../../shell/context";
import { Waiting } from "../../ui/Waiting";
import { useSheet } from "./api";
import { GESTURES } from "./surface";

const WORD: Record<Cover["is"], string> = {
  bound: "on a key",
  "by-activities": "sent by activities",
  missing: "missing",
  "by-looks": "by looks",
  impossible: "cannot be sent",
};

/** What the old remotes could, against this surface, and the guest test. */
export function CoverView({ surface, onKey }: { surface: Surface; onKey: (key: string) => void }) {
  const { house } = useRoom();
  const sheet = useSheet(surface.id);
  if (!sheet.data) return <Waiting what="the comparison" error={sheet.error} />;
  const { cover, guest } = sheet.data;
  const devices = [...new Set(cover.map((known) => known.device))];
  const count = (is: Cover["is"]) => cover.filter((known) => known.cover.is === is).length;
  const pageName = (id: string) => surface.pages?.find((page) => page.id === id)?.name ?? "";
  const labelOf = (id: string) =>
    surface.pages?.flatMap((page) => page.keys).find((key) => key.id === id)?.label ?? "a key";
  return (
    <div className="grid gap-x-10 gap-y-4 xl:grid-cols-[3fr_2fr]">
      <section aria-label="Functions of the old remotes">
        <p className="mb-2">
          {count("bound")} of {cover.length} functions are on a key, {count("by-activities")} are sent by
          activities, <strong>{count("missing")} missing</strong>, {count("impossible")} cannot be sent.
        </p>
        <div className="max-h-[66vh] overflow-auto">
          <div className="scrolls">
            <table className="w-full border-collapse">
              <thead className="sticky top-0 bg-paper">
                <tr className="border-b border-edge text-[13px] text-muted">
                  <th className="py-1 pr-3">Function</th>
                  <th className="py-1 pr-3">Here</th>
                  <th className="py-1 pr-3">Where</th>
                  <th className="py-1 text-right">Presses</th>
                </tr>
              </thead>
              {devices.map((device) => (
                <tbody key={device}>
                  <tr>
                    <th colSpan={4} scope="rowgroup" className="pt-2 pb-0.5 font-semibold">
                      {deviceName(house, device)}
                    </th>
                  </tr>
                  {cover
                    .filter((known) => known.device === device)
                    .map((known) => (
                      <tr key={known.function} className="border-b border-rule">
                        <td className="py-0.5 pr-3">{known.name}</td>
                        <td
                          className={`py-0.5 pr-3 whitespace-nowrap ${known.cover.is === "missing" ? "text-caution" : known.cover.is === "impossible" ? "text-stop" : "text-muted"}`}
                        >
                          {WORD[known.cover.is]}
                        </td>
                        <td className="py-0.5 pr-3">
                          {known.cover.is === "bound" ? (
                            <button
                              type="button"
                              className="link"
                              onClick={() => known.cover.is === "bound" && onKey(known.cover.key)}
                            >
                              {labelOf(known.cover.key)}
                              {surfaceRule(surface.kind).glass && `, ${pageName(known.cover.page)}`}
                              {known.cover.gesture !== "tap" &&
                                `, ${GESTURES.find(([one]) => known.cover.is === "bound" && one === known.cover.gesture)?.[1]}`}
                            </button>
                          ) : known.cover.is === "impossible" ? (
                            <span className="text-muted">{known.cover.why}</span>
                          ) : null}
                        </td>
                        <td className="py-0.5 text-right font-mono">
                          {known.cover.is === "bound" ? known.cover.presses : ""}
                        </td>
                      </tr>
                    ))}
                </tbody>
              ))}
            </table>
          </div>
        </div>
      </section>
      <section aria-label="Guest test">
        <h3 className="text-[16px]">The guest test</h3>
        <p className="mb-2 text-muted">
          From a cold room to a picture, by somebody who sees only the labels.
        </p>
        <ul className="space-y-2">
          {guest.map((way) => {
            const name = house.activities.find((known) => known.id === way.activity)?.name;
            return (
              <li key={way.activity} className="border-l-2 border-rule pl-3">
                <strong>{name}</strong>{" "}
                {way.missing ? (
                  <span className="text-caution">{way.missing}</span>
                ) : (
                  <span className="text-muted">
                    {way.presses.length} {way.presses.length === 1 ? "press" : "presses"}
                  </span>
                )}
                <ol className="flex flex-wrap gap-x-2">
                  {way.presses.map((press, at) => (
                    <li key={press.key}>
                      {at > 0 && <span aria-hidden>→ </span>}
                      <button type="button" className="link" onClick={() => onKey(press.key)}>
                        {press.label || "no label"}
                      </button>
                      {press.unclear && <span className="text-caution"> {press.unclear}</span>}
                    </li>
                  ))}
                </ol>
              </li>
            );
          })}
        </ul>
      </section>
    </div>
  );
}
