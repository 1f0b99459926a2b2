import { CircleDot, CircleStop, Play, Power, RotateCcw, StepForward } from "lucide-react";
import { useEffect, useState } from "react";
import { useSearchParams } from "react-router";
import { RequestError } from "../../api/client";
import { useRehearsal } from "../../api/live";
import type { RehearsalView, Situation } from "../../api/types";
import { useRoom } from "../../shell/context";
import { PARTS } from "../../shell/stages";
import { useLetter } from "../../shell/useKeys";
import { ProblemNote } from "../../ui/Problem";
import { Tabs } from "../../ui/Tabs";
import { StageHead } from "../../ui/StageHead";
import { clockTime } from "../../ui/time";
import { Waiting } from "../../ui/Waiting";
import { useRehearse } from "./api";
import { CallsView } from "./CallsView";
import { InStepView } from "./InStepView";
import { LightPart } from "./LightPart";
import { Notices } from "./Notices";
import { RoomDrawing } from "./RoomDrawing";
import { Run } from "./Run";
import { Standing } from "./Standing";
import { KeepStory, Playing, StoriesView } from "./StoriesView";
import { TrialsView } from "./TrialsView";
import { WireLog } from "./WireLog";

const RATES = [0, 1, 10] as const;

const VIEWS = PARTS.rehearse;

type RehearseView = (typeof VIEWS)[number][0];

type Actions = ReturnType<typeof useRehearse>;

/** Was a plan refused because it may end wrong? */
function unsure(error: Error): boolean {
  return error instanceof RequestError && error.problem.kind === "unsure";
}

/** Rehearse: a room that answers, the remote to press, hands that meddle, and what the runtime makes of it. */
export function RehearseStage() {
  const { house, room } = useRoom();
  const view = useRehearsal(house.house.id, room);
  const [params, setParams] = useSearchParams();
  const actions = useRehearse();
  const { run, rate, stop, reset, record } = actions;
  const halt = () => {
    run.reset();
    stop.mutate();
  };
  // What was asked before comes first: a start over, or another speed.
  const busy = reset.isPending || rate.isPending || run.isPending || record.isPending;
  useLetter("s", halt);
  const wanted = params.get("to");
  const chosen = VIEWS.find(([name]) => name === params.get("show"))?.[0] ?? "room";
  const choose = (name: RehearseView) =>
    setParams((old) => {
      old.set("show", name);
      return old;
    });
  const ask = (to: Situation) => run.mutate(to);

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
        <ClockRate view={view} actions={actions} />
        <button
          type="button"
          className="btn"
          disabled={busy || view?.recording === true}
          onClick={() => {
            record.mutate();
            choose("room");
          }}
        >
          <CircleDot aria-hidden size={14} /> Record
        </button>
        <button type="button" className="btn" disabled={reset.isPending} onClick={() => reset.mutate()}>
          <RotateCcw aria-hidden size={14} /> Start over
        </button>
      </StageHead>
      <Tabs
        label="Views of the rehearsal"
        parts={VIEWS}
        value={chosen}
        onChange={(name) => choose(name as RehearseView)}
      />
      {!view && <Waiting what="the rehearsal room" error={null} />}
      {view && actions.trouble && (
        <ProblemNote text={actions.trouble.message}>
          {unsure(actions.trouble) && run.variables && (
            <button type="button" className="link" onClick={() => actions.runAnyway.mutate(run.variables)}>
              Send it all the same
            </button>
          )}
        </ProblemNote>
      )}
      {view?.recording && <KeepStory />}
      {view?.playing && <Playing playing={view.playing} stop={() => actions.stopPlaying.mutate()} />}
      {view && chosen === "step" && <InStepView />}
      {chosen === "calls" && <CallsView />}
      {view && chosen === "stories" && (
        <StoriesView
          play={(events) => {
            actions.play.mutate(events);
            choose("room");
          }}
        />
      )}
      {view && chosen === "trials" && (
        <TrialsView
          play={(events) => {
            actions.play.mutate(events);
            choose("room");
          }}
        />
      )}
      {view && chosen === "room" && (
        <TheRoom view={view} actions={actions} busy={busy} wanted={wanted} ask={ask} halt={halt} />
      )}
    </section>
  );
}

/** What the runtime takes the room to be in. */
function TakenFor({ view }: { view: RehearsalView }) {
  const { house } = useRoom();
  const taken = view.taken_for;
  const name =
    taken?.is === "in"
      ? (house.activities.find((known) => known.id === taken.activity)?.name ?? "an activity")
      : "off";
  return (
    <p className="mb-1" data-testid="taken-for">
      {taken ? (
        <>
          The runtime takes the room to be <strong>{taken.is === "in" ? `in ${name}` : name}</strong>.
        </>
      ) : (
        <>
          The runtime <strong>does not know</strong> what the room is in.
        </>
      )}
      {!view.gateway_answers && <span className="text-stop"> The gateway does not answer.</span>}
    </p>
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

/** The speed of the clock, and a step where it stands still. */
function ClockRate({ view, actions }: { view: RehearsalView | undefined; actions: Actions }) {
  const { rate, step, reset } = actions;
  return (
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
          {value === 0 ? "Still" : `${value} ×`}
        </button>
      ))}
      {view?.rate === 0 && (
        <button type="button" className="btn px-2" disabled={step.isPending} onClick={() => step.mutate()}>
          <StepForward aria-hidden size={14} /> Step
        </button>
      )}
    </fieldset>
  );
}

/** The room itself: what can be pressed, what runs, what stands where. */
function TheRoom({
  view,
  actions,
  busy,
  wanted,
  ask,
  halt,
}: {
  view: RehearsalView;
  actions: Actions;
  busy: boolean;
  wanted: string | null;
  ask: (to: Situation) => void;
  halt: () => void;
}) {
  const { house, room } = useRoom();
  const [picked, setPicked] = useState<string>();
  const activities = house.activities.filter((known) => known.room === room);
  return (
    <>
      <div className="grid gap-x-6 gap-y-3 pt-3 lg:grid-cols-[190px_minmax(0,1fr)]">
        <div>
          <h3 className="text-[14px]">Press</h3>
          <div className="mt-1 flex flex-col gap-1.5">
            {activities.map((activity) => (
              <button
                key={activity.id}
                type="button"
                disabled={busy}
                className={`btn min-h-11 justify-start ${wanted === activity.id ? "btn-main" : ""}`}
                onClick={() => ask({ is: "in", activity: activity.id })}
              >
                <Play aria-hidden size={14} /> {activity.name}
              </button>
            ))}
            {activities.length === 0 && <p className="text-muted">No activity yet: add one in Sequences.</p>}
            <button
              type="button"
              disabled={busy}
              className={`btn min-h-11 justify-start ${wanted === "off" ? "btn-main" : ""}`}
              onClick={() => ask({ is: "off" })}
            >
              <Power aria-hidden size={14} /> Finish
            </button>
            <button type="button" className="btn min-h-11 justify-start text-stop" onClick={halt}>
              <CircleStop aria-hidden size={15} /> Stop everything <span className="kbd ml-auto">S</span>
            </button>
          </div>
        </div>
        <div className="min-w-0">
          <TakenFor view={view} />
          {view.run ? (
            <Run run={view.run} view={view} ask={ask} />
          ) : (
            <p className="text-muted">
              Everything is off. Press an activity: its commands go to the gateway at {view.gateway} and to
              the devices on the network, which answer as the real ones would. Then meddle: each device below
              has hands and faults.
            </p>
          )}
          <Notices view={view} ask={ask} complete={() => actions.complete.mutate()} />
          <RoomDrawing view={view} onPick={setPicked} />
        </div>
      </div>
      <LightPart view={view} actions={actions} />
      <Standing view={view} actions={actions} open={picked} onOpen={setPicked} />
      <WireLog view={view} />
    </>
  );
}
