import type { RoundView, Situation, TestLine } from "../../api/types";
import { useRoom } from "../../shell/context";
import { long } from "./TestsView";

/** The round: the switches that are left, in the order that takes the least time. */
export function RoundPart({ round, lines }: { round: RoundView; lines: TestLine[] }) {
  const { house } = useRoom();
  const name = (at: Situation) =>
    at.is === "in" ? (house.activities.find((own) => own.id === at.activity)?.name ?? "gone") : "Off";
  return (
    <details className="my-2 border-y border-rule py-2">
      <summary>
        <strong className="text-[16px]">The round</strong> <span data-testid="round">{round.words}</span>
      </summary>
      <p className="mt-1 max-w-3xl text-muted">
        From off to off. Each switch takes until everything has settled, and 10 s to look (your own measure).
        Switches in brackets only lead on. What fits into a wait stands beside it.
      </p>
      <ol className="mt-1 max-w-3xl" aria-label="Switches of the round">
        {round.stops.map((stop, at) => (
          <li key={at} className="flex flex-wrap gap-x-3 border-b border-rule py-1">
            <span className="w-16 font-mono text-muted">{long(stop.at_s)}</span>
            <span className={stop.wanted ? "font-semibold" : "text-muted"}>
              {stop.wanted
                ? `${name(stop.from)} → ${name(stop.to)}`
                : `(${name(stop.from)} → ${name(stop.to)})`}
            </span>
            <span className="text-muted">{long(stop.takes_s)}</span>
            {stop.fits.map((line) => (
              <span key={line} className="text-second">
                meanwhile: {lines[line]?.title}
              </span>
            ))}
          </li>
        ))}
      </ol>
    </details>
  );
}
