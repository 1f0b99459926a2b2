import type { RehearsalView, RunView, Situation, WayOn } from "../../api/types";
import { deviceName, useRoom } from "../../shell/context";
import { clockTime, seconds } from "../../ui/time";

const END: Record<NonNullable<RunView["end"]>, { word: string; tone: string }> = {
  ready: { word: "Ready", tone: "text-good" },
  sent: { word: "Sent, not confirmed,", tone: "text-caution" },
  wrong: { word: "Not as it should be", tone: "text-stop" },
  failed: { word: "Failed", tone: "text-stop" },
  stopped: { word: "Stopped", tone: "text-caution" },
};

/** The last run: how far it is, or how it ended and what supports that. */
export function Run({ run, view, ask }: { run: RunView; view: RehearsalView; ask: (to: Situation) => void }) {
  const { house } = useRoom();
  const to =
    run.to.is === "in"
      ? (house.activities.find((known) => known.id === (run.to.is === "in" ? run.to.activity : ""))?.name ??
        "an activity")
      : "Finish";
  const sent = run.steps.filter((step) => step.state === "sent").length;
  const next = run.steps.find((step) => step.state === "waiting" || step.state === "sending");
  const failed = run.steps.find((step) => step.state === "failed");
  const elapsed = (run.ended_ms ?? view.now_ms) - run.started_ms;
  const share = run.end ? 1 : Math.min(1, elapsed / Math.max(run.ready_ms, 1));
  const end = run.end ? END[run.end] : undefined;
  const names = (devices: string[]) => devices.map((device) => deviceName(house, device)).join(", ");
  const bad = run.end === "wrong" || run.end === "failed";
  return (
    <div role="status" aria-live="polite" data-testid="run" data-end={run.end ?? "running"}>
      <p>
        <strong className="text-[16px]">{to}</strong>{" "}
        {end ? (
          <strong className={end.tone}>
            {end.word} after {clockTime(elapsed)}
          </strong>
        ) : (
          <span>
            {clockTime(elapsed)} of {clockTime(run.ready_ms)}
          </span>
        )}
        <span className="text-muted">
          {" "}
          · {sent} of {run.steps.length} commands sent
          {!end && next && `, next “${next.name}” to ${deviceName(house, next.device)}`}
          {failed && `, “${failed.name}” to ${deviceName(house, failed.device)} failed`}
          {run.derived_anew > 0 && ` · derived anew ${run.derived_anew === 1 ? "once" : "twice"}`}
          {run.cause === "completed" && " · to complete what was adopted"}
        </span>
      </p>
      <div className="mt-1 h-1.5 border border-edge" aria-hidden>
        <div
          className={`h-full ${bad ? "bg-stop" : run.end === "ready" ? "bg-good" : "bg-accent"}`}
          style={{ width: `${share * 100}%` }}
        />
      </div>
      {end && !bad && run.end !== "stopped" && (
        <p className="mt-1 text-muted">
          {run.confirmed.length > 0 && `${names(run.confirmed)} said so. `}
          {run.proved.length > 0 && `${names(run.proved)}: proved, whatever it was before. `}
          {run.unconfirmed.length > 0 && `Nothing says so of ${names(run.unconfirmed)}.`}
        </p>
      )}
      {run.troubles.length > 0 && (
        <ul className="mt-1.5 border-l-4 border-stop bg-soft px-3 py-1.5">
          {run.troubles.map((trouble, at) => (
            <li key={at}>{trouble}</li>
          ))}
        </ul>
      )}
      {run.offers.length > 0 && <Ways ways={run.offers} ask={ask} />}
      {end && (
        <p className="mt-1" data-testid="in-truth">
          <span className="text-muted">In truth, at its end: </span>
          {run.in_truth.length === 0 ? "everything is as it should be." : run.in_truth.join(" ")}
        </p>
      )}
    </div>
  );
}

/** Ways to go on from here, the shortest first. */
export function Ways({ ways, ask }: { ways: WayOn[]; ask: (to: Situation) => void }) {
  return (
    <div className="mt-1.5 flex flex-wrap items-center gap-2">
      {ways.map((way) => (
        <button key={way.text} type="button" className="btn" onClick={() => ask(way.to)}>
          {way.text}
          <span className="text-muted">
            {" "}
            {seconds(way.ready_ms)}, {way.sends === 1 ? "1 command" : `${way.sends} commands`}
          </span>
        </button>
      ))}
    </div>
  );
}
