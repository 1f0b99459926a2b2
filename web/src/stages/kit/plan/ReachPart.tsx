import type { Placed, Reach, ReachHelp, ReachLine, ReachWhy, Three } from "../../../api/types";
import { deviceName, useRoom } from "../../../shell/context";
import type { ChangePlaced } from "./edits";
import { ProblemNote } from "../../../ui/Problem";
import { Waiting } from "../../../ui/Waiting";

/** Why a device is not reached, in words. */
export function whyWords(why: ReachWhy, name: (device: string) => string): string {
  switch (why.why) {
    case "screen":
      return `behind ${name(why.screen)}`;
    case "cupboard":
      return `behind the door or the wall of ${why.name}`;
    case "turned-away":
      return "the gateway does not look at it";
    case "looks-away":
      return "it does not look at the gateway";
    case "far":
      return "too far";
  }
}

/** What would help, in words. */
export function helpWords(help: ReachHelp): string {
  switch (help.help) {
    case "turn":
      return `Turn the gateway by ${help.by_deg.toFixed(0)}°: ${help.margin_db.toFixed(0)} dB`;
    case "lead":
      return "A lead on its window";
    case "open":
      return `With nothing in the way it would be ${help.margin_db.toFixed(0)} dB`;
    case "move":
      return `Move the gateway ${help.by_m.toFixed(1)} m along its wall: ${help.margin_db.toFixed(0)} dB`;
  }
}

const TONE = {
  reaches: "text-good font-semibold",
  barely: "text-caution font-semibold",
  not: "text-stop font-semibold",
};

/** What a gateway reaches, with its margin; why not, and what would help. */
export function ReachPart({
  reach,
  error,
  gateway,
  senders,
  change,
}: {
  reach: Reach | null | undefined;
  error: Error | null;
  gateway: string | undefined;
  senders: number;
  change: ChangePlaced;
}) {
  const { house } = useRoom();
  const name = (device: string) => deviceName(house, device);
  if (senders === 0) {
    return (
      <p className="text-muted">
        No infrared gateway stands on this plan, or nothing is known of its emitter. Place one below.
      </p>
    );
  }
  if (error) return <ProblemNote text={error.message} />;
  if (!reach || !gateway) return <Waiting what="what is reached" error={error} />;
  const apply = (help: ReachHelp, line: ReachLine) => {
    const put = (next: (now: Placed) => Partial<Placed>) =>
      change(gateway, (now) => ({ ...now, ...next(now) }));
    if (help.help === "turn") {
      const { azimuth_deg, elevation_deg } = help;
      put(() => ({ azimuth_deg, elevation_deg }));
    }
    if (help.help === "move") put(() => ({ at_mm: help.at_mm as Three }));
    if (help.help === "lead") put((now) => ({ leads: [...(now.leads ?? []), line.device] }));
  };
  return (
    <section aria-label={`What ${name(gateway)} reaches`}>
      <table className="w-full border-collapse">
        <thead>
          <tr className="border-b border-rule text-[13px] text-muted">
            <th className="py-1 text-left font-medium">Hears {name(gateway)}</th>
            <th className="py-1 text-right font-medium">margin</th>
          </tr>
        </thead>
        <tbody>
          {reach.lines.map((line) => (
            <tr key={line.device} className="border-b border-rule align-top">
              <td className="py-1.5 pr-3">
                <span className={line.reached === "not" ? "font-semibold text-stop" : ""}>
                  {name(line.device)}
                </span>{" "}
                <span className="text-muted">
                  {line.lead
                    ? "by a lead"
                    : line.why
                      ? whyWords(line.why, name)
                      : `${line.metres.toFixed(1)} m`}
                </span>
                {line.help.length > 0 && (
                  <ul className="mt-0.5">
                    {line.help.map((help) => (
                      <li key={help.help} className="flex items-baseline gap-3 text-[14px]">
                        <span className="min-w-0 flex-1">{helpWords(help)}.</span>
                        {help.help !== "open" && (
                          <button
                            type="button"
                            className="link"
                            aria-label={`${helpWords(help)}, for ${name(line.device)}`}
                            onClick={() => apply(help, line)}
                          >
                            Do it
                          </button>
                        )}
                      </li>
                    ))}
                  </ul>
                )}
              </td>
              <td className={`py-1.5 text-right font-mono whitespace-nowrap ${TONE[line.reached]}`}>
                {line.lead
                  ? "a lead"
                  : line.margin_db === null || line.margin_db === undefined
                    ? "not"
                    : `${line.margin_db.toFixed(0)} dB`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {reach.unknown.length > 0 && (
        <p className="mt-2 text-[13px] text-muted">
          Not placed, or nothing is known of a window: {reach.unknown.map(name).join(", ")}. No claim is made
          for these.
        </p>
      )}
      <p className="mt-2 text-[13px] text-muted">
        Reached from 6 dB on, barely from 0 dB (light straight and by one bounce). Learning wants a few cm; 12
        m is the usual range (common practice). The figures are those of the models.
      </p>
    </section>
  );
}
