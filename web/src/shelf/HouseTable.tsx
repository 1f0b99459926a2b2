import { Link } from "react-router";
import type { ShelfLine } from "../api/types";
import { CourseLine } from "./CourseLine";
import { HouseMenu } from "./HouseMenu";
import { ago, needs } from "./words";

const TONE = {
  stop: "text-stop font-semibold",
  caution: "text-caution font-semibold",
  next: "",
  good: "text-good font-semibold",
};

/** The houses, one line each. */
export function HouseTable({
  houses,
  say,
  fail,
}: {
  houses: ShelfLine[];
  say: (line: string) => void;
  fail: (line: string) => void;
}) {
  const now = new Date();
  return (
    <div className="scrolls overflow-x-auto">
      <table className="w-full min-w-[340px] border-collapse" aria-label="Houses">
        <thead>
          <tr className="border-b border-rule text-[13px] text-muted">
            <th className="py-1 pr-4">House</th>
            <th className="hidden py-1 pr-4 md:table-cell">From kit to handover</th>
            <th className="hidden py-1 pr-4 sm:table-cell">What it needs</th>
            <th className="hidden py-1 pr-4 md:table-cell">Last</th>
            <th className="py-1">
              <span className="sr-only">Actions</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {houses.map((house) => {
            const need = needs(house);
            const rooms = house.summary?.rooms.length;
            const line = [house.client, house.note].filter((part) => part !== "").join(" · ");
            return (
              <tr key={house.id} className="border-b border-rule align-top">
                <td className="py-2.5 pr-4">
                  <Link
                    to={`/houses/${house.id}`}
                    className="inline-flex min-h-6 items-center text-[16px] font-semibold hover:text-accent"
                  >
                    {house.name}
                  </Link>
                  <p className="text-muted">
                    {line}
                    {line && rooms !== undefined && ", "}
                    {rooms !== undefined && (rooms === 1 ? "1 room" : `${rooms} rooms`)}
                  </p>
                  <p className={`sm:hidden ${need ? TONE[need.tone] : "text-muted"}`}>
                    {need?.text ?? "being summed up …"}
                  </p>
                </td>
                <td className="hidden py-2.5 pr-4 md:table-cell">
                  {house.summary ? (
                    <CourseLine stages={house.summary.stages} named />
                  ) : (
                    <span className="text-muted">…</span>
                  )}
                </td>
                <td className="hidden max-w-[26rem] py-2.5 pr-4 sm:table-cell">
                  <span className={need ? TONE[need.tone] : "text-muted"}>
                    {need?.text ?? "being summed up …"}
                  </span>
                  {need?.more && <span className="line-clamp-2 text-[13px] text-muted">{need.more}</span>}
                  {house.open_calls > 0 && (
                    <span className="block text-caution">
                      {house.open_calls} open {house.open_calls === 1 ? "call" : "calls"} of the household
                    </span>
                  )}
                  {house.summary && house.as_of !== house.revision && (
                    <span className="block text-[12.5px] text-muted">
                      as of revision {house.as_of}; being brought up to date
                    </span>
                  )}
                </td>
                <td className="hidden py-2.5 pr-4 whitespace-nowrap text-muted md:table-cell">
                  edited {ago(house.edited_at, now)}
                  {house.last_visit && <span className="block">visited {ago(house.last_visit, now)}</span>}
                </td>
                <td className="py-1.5 text-right">
                  <HouseMenu house={house} say={say} fail={fail} />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
