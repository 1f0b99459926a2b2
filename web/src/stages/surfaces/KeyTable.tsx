import type { Surface, SurfacePage } from "../../api/types";
import { useRoom } from "../../shell/context";
import { NotSaved } from "../../ui/NotSaved";
import { useMeant } from "./api";
import { doesWords, LITS } from "./surface";

/** What each key of a page does, in the order of the grid. */
export function KeyTable({
  surface,
  page,
  activity,
  onChoose,
}: {
  surface: Surface;
  page: SurfacePage;
  activity: string | undefined;
  onChoose: (key: string) => void;
}) {
  const { house, room } = useRoom();
  const meant = useMeant(surface.id, activity);
  const rows = [...page.keys].sort((a, b) => a.row - b.row || a.column - b.column);
  return (
    <div className="max-h-[64vh] overflow-auto">
      <div className="scrolls">
        <table className="w-full border-collapse" aria-label={`Keys of ${page.name}`}>
          <thead className="sticky top-0 bg-paper">
            <tr className="border-b border-edge text-[13px] text-muted">
              <th className="py-1 pr-3">Key</th>
              <th className="py-1 pr-3">Tapped</th>
              <th className="py-1 pr-3">Twice, held</th>
              <th className="py-1">Lit</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((key) => {
              const own = meant?.get(key.id);
              const tap = own?.tap;
              const more = (["double-tap", "hold", "release"] as const).flatMap((gesture) => {
                const known = own?.[gesture];
                return known
                  ? [
                      `${gesture === "double-tap" ? "twice" : gesture === "hold" ? "held" : "let go"}: ${doesWords(house, room, surface, known.does)}`,
                    ]
                  : [];
              });
              if (tap?.held === "repeats") more.push("again while held");
              if (tap?.held === "passes") more.push("held as long");
              return (
                <tr key={key.id} className="border-b border-rule align-top">
                  <td className="py-1 pr-3">
                    <button type="button" className="link text-left" onClick={() => onChoose(key.id)}>
                      {key.label || "no label"}
                    </button>
                    <NotSaved of={[`key:${key.id}`]} />
                  </td>
                  <td className="py-1 pr-3">
                    {!meant ? null : tap ? (
                      doesWords(house, room, surface, tap.does)
                    ) : (
                      <span className="text-muted">nothing{activity ? " here" : ""}</span>
                    )}
                  </td>
                  <td className="py-1 pr-3 text-muted">{more.join(", ")}</td>
                  <td className="py-1 text-muted">
                    {key.lit ? LITS.find(([when]) => when === key.lit?.when)?.[1] : ""}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </div>
  );
}
