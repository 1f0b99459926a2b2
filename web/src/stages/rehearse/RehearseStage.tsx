import { useMutation } from "@tanstack/react-query";
import { CircleStop, Play, Power, RotateCcw } from "lucide-react";
import { useEffect, useState } from "react";
import { useSearchParams } from "react-router";
import { client, data } from "../../api/client";
import { useRehearsal } from "../../api/live";
import type { RehearsalView, RunView, Situation } from "../../api/types";
import { deviceName, useRoom } from "../../shell/context";
import { useLetter } from "../../shell/useKeys";
import { ProblemNote } from "../../ui/Problem";
import { StageHead } from "../../ui/StageHead";
import { clockTime } from "../../ui/time";
import { Waiting } from "../../ui/Waiting";
import { RoomDrawing } from "./RoomDrawing";
import { Standing } from "./Standing";
import { WireLog } from "./WireLog";

const RATES = [1, 10] as const;

/** Rehearse: the simulated room as it stands, the remote to press, the run and the wire log. */
export function RehearseStage() {
  const { house, room } = useRoom();
  const view = useRehearsal(house.house.id, room);
  const [params] = useSearchParams();
  const path = { path: { house: house.house.id, room } };
  const run = useMutation({
    mutationFn: (to: Situation) =>
      data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/run", { params: path, body: { to } })),
  });
  const rate = useMutation({
    mutationFn: (value: number) =>
      data(
        client.POST("/api/houses/{house}/rooms/{room}/rehearsal/rate", {
          params: path,
          body: { rate: value },
        }),
      ),
  });
  const stop = useMutation({
    mutationFn: () => data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/stop", { params: path })),
  });
  const reset = useMutation({
    mutationFn: () => data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/reset", { params: path })),
  });
  const halt = () => {
    run.reset();
    stop.mutate();
  };
  // What was asked before comes first: a start over, or another speed.
  const busy = reset.isPending || rate.isPending || run.isPending;
  useLetter("s", halt);
  const activities = house.activities.filter((known) => known.room === room);
  const wanted = params.get("to");
  const trouble = run.error ?? stop.error ?? reset.error ?? rate.error;

  return (
    <section aria-label="Rehearse">
      <StageHead
        title="Rehearse"
        figure={
          view && (
            <>
              the clock shows <RunningClock view={view} />
            </>
          )
        }
      >
        <fieldset className="flex items-center gap-1">
          <legend className="sr-only">Speed of the clock</legend>
          {RATES.map((value) => (
            <button
              key={value}
              type="button"
              className={`btn px-2 ${view?.rate === value ? "border-accent text-accent" : "border-transparent"}`}
              aria-pressed={view?.rate === value}
              disabled={reset.isPending || rate.isPending}
              onClick={() => rate.mutate(value)}
            >
              {value} ×
            </button>
          ))}
        </fieldset>
        <button type="button" className="btn" disabled={reset.isPending} onClick={() => reset.mutate()}>
          <RotateCcw aria-hidden size={14} /> Start over
        </button>
      </StageHead>
      {!view ? (
        <Waiting what="the rehearsal room" error={null} />
      ) : (
        <>
          <div className="grid gap-x-6 gap-y-3 border-t border-rule pt-3 lg:grid-cols-[190px_minmax(0,1fr)]">
            <div>
              <h3 className="text-[14px]">Press</h3>
              <div className="mt-1 flex flex-col gap-1.5">
                {activities.map((activity) => (
                  <button
                    key={activity.id}
                    type="button"
                    disabled={busy}
                    className={`btn min-h-11 justify-start ${wanted === activity.id ? "btn-main" : ""}`}
                    onClick={() => run.mutate({ is: "in", activity: activity.id })}
                  >
                    <Play aria-hidden size={14} /> {activity.name}
                  </button>
                ))}
                {activities.length === 0 && (
                  <p className="text-muted">No activity yet: add one in Sequences.</p>
                )}
                <button
                  type="button"
                  disabled={busy}
                  className={`btn min-h-11 justify-start ${wanted === "off" ? "btn-main" : ""}`}
                  onClick={() => run.mutate({ is: "off" })}
                >
                  <Power aria-hidden size={14} /> Room off
                </button>
                <button type="button" className="btn min-h-11 justify-start text-stop" onClick={halt}>
                  <CircleStop aria-hidden size={15} /> Stop <span className="kbd ml-auto">S</span>
                </button>
              </div>
            </div>
            <div className="min-w-0">
              {trouble && <ProblemNote text={trouble.message} />}
              {view.run ? (
                <Run run={view.run} view={view} />
              ) : (
                <p className="text-muted">
                  Everything is off. Press an activity: its commands go to the gateway at {view.gateway},
                  which radiates them into this simulated room.
                </p>
              )}
              <RoomDrawing view={view} />
            </div>
          </div>
          <Standing view={view} />
          <WireLog view={view} />
        </>
      )}
    </section>
  );
}

/** The clock of the rehearsal, running on between two views of the room. */
function RunningClock({ view }: { view: RehearsalView }) {
  const [now, setNow] = useState(view.now_ms);
  useEffect(() => {
    const came = performance.now();
    const tick = () => setNow(view.now_ms + (performance.now() - came) * view.rate);
    const timer = setInterval(tick, 200);
    tick();
    return () => clearInterval(timer);
  }, [view]);
  return <span className="font-mono text-ink">{clockTime(now)}</span>;
}

const END: Record<NonNullable<RunView["end"]>, { word: string; tone: string }> = {
  ready: { word: "Ready", tone: "text-good" },
  wrong: { word: "Not as it should be", tone: "text-stop" },
  failed: { word: "Failed", tone: "text-stop" },
  stopped: { word: "Stopped", tone: "text-caution" },
};

/** The last run: how far it is, or how it ended. */
function Run({ run, view }: { run: RunView; view: RehearsalView }) {
  const { house } = useRoom();
  const to =
    run.to.is === "in"
      ? (house.activities.find((known) => known.id === (run.to.is === "in" ? run.to.activity : ""))?.name ??
        "an activity")
      : "Room off";
  const sent = run.steps.filter((step) => step.state === "sent").length;
  const next = run.steps.find((step) => step.state === "waiting" || step.state === "sending");
  const elapsed = (run.ended_ms ?? view.now_ms) - run.started_ms;
  const share = run.end ? 1 : Math.min(1, elapsed / Math.max(run.ready_ms, 1));
  const end = run.end ? END[run.end] : undefined;
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
          {run.end === "ready" && " · checked against the simulated devices"}
        </span>
      </p>
      <div className="mt-1 h-1.5 border border-edge" aria-hidden>
        <div
          className={`h-full ${run.end === "wrong" || run.end === "failed" ? "bg-stop" : run.end === "ready" ? "bg-good" : "bg-accent"}`}
          style={{ width: `${share * 100}%` }}
        />
      </div>
      {run.troubles.length > 0 && (
        <ul className="mt-1.5 border-l-4 border-stop bg-soft px-3 py-1.5">
          {run.troubles.map((trouble) => (
            <li key={trouble}>{trouble}</li>
          ))}
        </ul>
      )}
    </div>
  );
}
