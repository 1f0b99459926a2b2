import { ArrowRight, Pencil, Play, Plus } from "lucide-react";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { useCell, usePlan } from "../../api/queries";
import type { Activity, CellPlan, Device, Plan } from "../../api/types";
import { deviceName, profileOf, useRoom } from "../../shell/context";
import { PARTS } from "../../shell/stages";
import { useLetter } from "../../shell/useKeys";
import { Choice } from "../../ui/Choice";
import { NotSaved } from "../../ui/NotSaved";
import { StageHead } from "../../ui/StageHead";
import { Tabs } from "../../ui/Tabs";
import { clockTime, readyTime, seconds } from "../../ui/time";
import { Waiting } from "../../ui/Waiting";
import { kindRank } from "../kit/words";
import { ActivityForm } from "./ActivityForm";
import { FavouritesView } from "./FavouritesView";
import { Lanes } from "./Lanes";
import { Limits } from "./Limits";
import { MatrixView } from "./MatrixView";
import { OffView } from "./OffView";
import { ProofView } from "./ProofView";
import { RulesView } from "./RulesView";
import { Steps } from "./Steps";
import { VerdictLine } from "./Verdict";

const VIEWS = PARTS.sequences;

/** Sequences: from where to where, the derived plan as lanes over time, and its steps. */
export function SequencesStage() {
  const { house, room, devices, go } = useRoom();
  const [params, setParams] = useSearchParams();
  const [editing, setEditing] = useState<Activity | "new">();
  const activities = house.activities.filter((known) => known.room === room);
  const wanted = params.get("activity") ?? undefined;
  const to: string | undefined =
    wanted === "off" || activities.some((known) => known.id === wanted) ? wanted : activities[0]?.id;
  const from = params.get("from") ?? (to === "off" ? (activities[0]?.id ?? "unknown") : "off");
  const set = (key: string, value: string) => {
    const next = new URLSearchParams(params);
    next.set(key, value);
    setParams(next, { replace: true });
  };
  const open = (start: string, end: string) => {
    const next = new URLSearchParams(params);
    next.set("from", start);
    next.set("activity", end);
    next.set("view", "plan");
    setParams(next);
  };
  const known =
    to !== undefined &&
    from !== "unknown" &&
    from !== to &&
    (from === "off" || activities.some((one) => one.id === from));
  const cell = useCell(house.house.id, room, known ? { from, to } : undefined);
  const loose = usePlan(house.house.id, room, from, to ?? "off", !known);
  const settled = params.get("settled") !== null && cell.data?.cold != null;
  const plan = known ? ((settled ? cell.data?.cold : cell.data?.plan) ?? undefined) : loose.data;
  const stale = known ? cell.isPlaceholderData : loose.isPlaceholderData;
  const view = VIEWS.find(([id]) => id === params.get("view"))?.[0] ?? "plan";
  const activity = activities.find((known) => known.id === to);
  useLetter("p", to ? () => set("view", "proof") : undefined);
  const order = [...devices].sort(
    (a, b) =>
      kindRank(profileOf(house, b).kind) - kindRank(profileOf(house, a).kind) || a.position - b.position,
  );
  const places = activities.map((known) => ({ value: known.id, label: known.name }));

  if (!to) {
    return (
      <section aria-label="Sequences">
        <StageHead title="Sequences" figure="no activity yet" />
        <p className="border-t border-rule py-6">
          An activity says what plays, where it is seen and where it is heard. The commands, their order and
          their waits are derived from it.
        </p>
        <button type="button" className="btn btn-main" onClick={() => setEditing("new")}>
          <Plus aria-hidden size={15} /> Add activity
        </button>
        <ActivityForm
          editing={editing}
          onClose={() => setEditing(undefined)}
          onSaved={(id) => set("activity", id)}
        />
      </section>
    );
  }
  return (
    <section aria-label="Sequences">
      <StageHead
        title={
          <span className="flex flex-wrap items-center gap-2">
            <Choice
              label="From"
              className="w-40 font-sans text-[15px]"
              value={from}
              onChange={(value) => set("from", value)}
              options={[
                { value: "off", label: "Off" },
                ...places,
                { value: "unknown", label: "Anything", hint: "unknown start" },
              ]}
            />
            <ArrowRight aria-label="to" size={18} />
            <Choice
              label="To"
              className="w-44 font-sans text-[15px]"
              value={to}
              onChange={(value) => set("activity", value)}
              options={[...places, { value: "off", label: "Off" }]}
            />
          </span>
        }
        figure={plan && <KeyFigure plan={plan} />}
      >
        {activity && (
          <button type="button" className="btn" onClick={() => setEditing(activity)}>
            <Pencil aria-hidden size={14} /> Edit activity
            <NotSaved brief of={[`activity:${activity.id}`]} />
          </button>
        )}
        <button type="button" className="btn" onClick={() => setEditing("new")}>
          <Plus aria-hidden size={15} /> Add
          <NotSaved brief of={[`activity:new ${room}`]} />
        </button>
        <button type="button" className="btn btn-main" onClick={() => go("rehearse", { to })}>
          <Play aria-hidden size={14} /> Rehearse
        </button>
      </StageHead>
      <Tabs label="Sequences" parts={VIEWS} value={view} onChange={(value) => set("view", value)} />
      <View
        view={view}
        plan={plan}
        stale={stale}
        error={known ? cell.error : loose.error}
        found={known ? cell.data : undefined}
        ends={known ? { from, to } : undefined}
        order={order}
        activity={activity}
        onOpen={open}
        onProof={() => set("view", "proof")}
      />
      <ActivityForm
        editing={editing}
        onClose={() => setEditing(undefined)}
        onSaved={(id) => set("activity", id)}
      />
    </section>
  );
}

/** What is on the table below the head. */
function View({
  view,
  plan,
  stale,
  error,
  found,
  ends,
  order,
  activity,
  onOpen,
  onProof,
}: {
  view: string;
  plan: Plan | undefined;
  stale: boolean;
  error: Error | null;
  found: CellPlan | undefined;
  ends: { from: string; to: string } | undefined;
  order: Device[];
  activity: Activity | undefined;
  onOpen: (from: string, to: string) => void;
  onProof: () => void;
}) {
  const { house } = useRoom();
  if (view === "matrix") return <MatrixView onOpen={onOpen} />;
  if (view === "house") return <OffView />;
  if (view === "favourites")
    return activity ? (
      <FavouritesView activity={activity} />
    ) : (
      <p className="py-4 text-muted">Favourites belong to an activity. Choose one at the top.</p>
    );
  if (!plan) return <Waiting what="the plan" error={error} />;
  if (view === "rules") return <RulesView plan={plan} />;
  if (view === "proof")
    return found && ends ? (
      <div className={stale ? "opacity-60" : ""}>
        <ProofView found={found} ends={ends} order={order} profiles={house.profiles} />
      </div>
    ) : (
      <p className="py-4 text-muted">
        A proof belongs to the way from one situation to another one. Choose them at the top, or in the
        matrix.
      </p>
    );
  return (
    <div className={stale ? "opacity-60" : ""}>
      {found && (
        <p className="mb-1 flex flex-wrap items-center gap-x-3">
          <VerdictLine cell={found.cell} />
          {found.cell.weakest && <span className="text-muted">weakest wait: {found.cell.weakest.what}</span>}
          <button type="button" className="link" onClick={onProof}>
            Why, and what would help (P)
          </button>
        </p>
      )}
      {found && <Limits cell={found.cell} />}
      {plan.steps.length === 0 && plan.waits.length === 0 ? (
        <p className="border-y border-rule py-6">
          {plan.runnable
            ? "Nothing has to be sent: the room is already there."
            : "No plan: the notes in the margin say what stands in its way."}
        </p>
      ) : (
        <Lanes plan={plan} devices={order} profiles={house.profiles} />
      )}
      <Explained plan={plan} found={found} />
      {found?.cold && <WhichMoment found={found} />}
      <Steps plan={plan} />
    </div>
  );
}

/** The plan for any moment, also right after the last one; or the quicker one for a room that has settled. */
function WhichMoment({ found }: { found: CellPlan }) {
  const [params, setParams] = useSearchParams();
  const settled = params.get("settled") !== null;
  const show = (on: boolean) =>
    setParams((old) => {
      if (on) old.set("settled", "");
      else old.delete("settled");
      return old;
    });
  return (
    <div role="group" aria-label="When it is asked for" className="mt-1 flex flex-wrap items-center gap-2">
      {(
        [
          [false, "At any moment", found.plan.ready_ms],
          [true, "Everything settled", found.cold?.ready_ms],
        ] as const
      ).map(([on, words, ms]) => (
        <button
          key={words}
          type="button"
          aria-pressed={settled === on}
          className={`btn px-2 text-[13.5px] ${settled === on ? "border-accent text-accent" : "font-normal"}`}
          onClick={() => show(on)}
        >
          {words}: <span className="font-mono">{readyTime(ms)}</span>
        </button>
      ))}
      <span className="text-[13px] text-muted">
        The first is proved, printed and exported; the runtime takes the second once it knows that nothing is
        under way any more.
      </span>
    </div>
  );
}

function KeyFigure({ plan }: { plan: Plan }) {
  // Where no plan can be made there is no time at which it would be ready.
  if (plan.ready_ms == null) return <>no plan can be sent</>;
  const best = plan.optimal
    ? plan.ready_ms === plan.bound_ms
      ? "the fastest there is"
      : `the fastest there is, ${seconds(plan.ready_ms - plan.bound_ms)} over the bound`
    : plan.ready_ms === plan.bound_ms
      ? "not proved the fastest"
      : `within ${seconds(plan.ready_ms - plan.bound_ms)} of the fastest`;
  return (
    <>
      ready in <strong className="text-ink">{clockTime(plan.ready_ms)}</strong>, {best}
    </>
  );
}

/** What the figures rest on, in two sentences. */
function Explained({ plan, found }: { plan: Plan; found: CellPlan | undefined }) {
  const { house } = useRoom();
  if (plan.steps.length === 0 && plan.looks.length === 0) return null;
  return (
    <p className="mt-1 text-muted">
      {plan.steps.length} transmissions. The bound rests on {plan.bound_by}. One device after another it would
      take {clockTime(plan.sequential_ms)}.
      {found?.cell.other_ms != null &&
        ` Everything settled, the ${found.cell.policy === "trusting" ? "safe" : "trusting"} plan takes ${clockTime(found.cell.other_ms)}.`}
      {plan.not_shortest.length > 0 &&
        ` Not proved shortest: ${plan.not_shortest.map((id) => deviceName(house, id)).join(", ")}.`}
      {plan.looks.map((look) => (
        <span key={look.device}>
          {" "}
          First a look at {deviceName(house, look.device)} ({seconds(look.to_ms)} at most):{" "}
          {look.branches
            .map(
              (branch) =>
                `${branch.seen}: ${branch.commands.length === 0 ? "nothing is sent" : branch.commands.map((one) => one.name).join(", ")}`,
            )
            .join("; ")}
          .
        </span>
      ))}
      {!plan.runnable && (
        <strong className="text-stop">
          {" "}
          It cannot be sent yet: see the notes marked Stops in the margin.
        </strong>
      )}
    </p>
  );
}
