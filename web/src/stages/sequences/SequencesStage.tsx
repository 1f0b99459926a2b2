import { ArrowRight, Download, Pencil, Play, Plus } from "lucide-react";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { usePlan } from "../../api/queries";
import type { Activity, Plan, Step } from "../../api/types";
import { deviceName, profileOf, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { StageHead } from "../../ui/StageHead";
import { clockTime, seconds } from "../../ui/time";
import { Waiting } from "../../ui/Waiting";
import { kindRank } from "../kit/words";
import { ActivityForm } from "./ActivityForm";
import { Lanes } from "./Lanes";
import { stepSheet, waitAfter } from "./lanes";

/** Sequences: from where to where, the derived plan as lanes over time, and its steps. */
export function SequencesStage() {
  const { house, room, devices, go } = useRoom();
  const [params, setParams] = useSearchParams();
  const [editing, setEditing] = useState<Activity | "new">();
  const activities = house.activities.filter((known) => known.room === room);
  const wanted = params.get("activity");
  const to = wanted === "off" || activities.some((known) => known.id === wanted) ? wanted : activities[0]?.id;
  const from = params.get("from") ?? (to === "off" ? (activities[0]?.id ?? "unknown") : "off");
  const plan = usePlan(house.house.id, room, from, to ?? "off");
  const activity = activities.find((known) => known.id === to);
  const order = [...devices].sort(
    (a, b) =>
      kindRank(profileOf(house, b).kind) - kindRank(profileOf(house, a).kind) || a.position - b.position,
  );
  const set = (key: string, value: string) => {
    const next = new URLSearchParams(params);
    next.set(key, value);
    setParams(next, { replace: true });
  };
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
          <span className="flex items-center gap-2">
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
        figure={plan.data && <KeyFigure plan={plan.data} />}
      >
        {activity && (
          <button type="button" className="btn" onClick={() => setEditing(activity)}>
            <Pencil aria-hidden size={14} /> Edit activity
          </button>
        )}
        <button type="button" className="btn" onClick={() => setEditing("new")}>
          <Plus aria-hidden size={15} /> Add
        </button>
        <button type="button" className="btn btn-main" onClick={() => go("rehearse", { to })}>
          <Play aria-hidden size={14} /> Rehearse
        </button>
      </StageHead>
      {plan.data ? (
        <div className={plan.isPlaceholderData ? "opacity-60" : ""}>
          {plan.data.steps.length === 0 && plan.data.waits.length === 0 ? (
            <p className="border-y border-rule py-6">
              {plan.data.runnable
                ? "Nothing has to be sent: the room is already there."
                : "No plan: the notes in the margin say what stands in its way."}
            </p>
          ) : (
            <Lanes plan={plan.data} devices={order} profiles={house.profiles} />
          )}
          <Explained plan={plan.data} />
          <Steps plan={plan.data} />
        </div>
      ) : (
        <Waiting what="the plan" error={plan.error} />
      )}
      <ActivityForm
        editing={editing}
        onClose={() => setEditing(undefined)}
        onSaved={(id) => set("activity", id)}
      />
    </section>
  );
}

function KeyFigure({ plan }: { plan: Plan }) {
  const best = plan.optimal
    ? plan.ready_ms === plan.bound_ms
      ? "the fastest there is"
      : `the fastest there is, ${seconds(plan.ready_ms - plan.bound_ms)} over the bound`
    : `within ${seconds(plan.ready_ms - plan.bound_ms)} of the fastest`;
  return (
    <>
      ready in <strong className="text-ink">{clockTime(plan.ready_ms)}</strong>, {best}
    </>
  );
}

/** What the figures rest on, in two sentences. */
function Explained({ plan }: { plan: Plan }) {
  if (plan.steps.length === 0) return null;
  return (
    <p className="mt-1 text-muted">
      {plan.steps.length} transmissions. The bound rests on {plan.bound_by}. One device after another it would
      take {clockTime(plan.sequential_ms)}.
      {!plan.runnable && (
        <strong className="text-stop">
          {" "}
          It cannot be sent yet: see the notes marked Stops in the margin.
        </strong>
      )}
    </p>
  );
}

/** The pause before the device takes its next command, where nothing settles meanwhile. */
function pauseText(plan: Plan, step: Step): string {
  const pause = waitAfter(plan, step);
  return pause === undefined ? "" : `pause · ${seconds(pause)} until its next command`;
}

/** The plan as a sheet: what, when, why. */
function Steps({ plan }: { plan: Plan }) {
  const { house, go } = useRoom();
  if (plan.steps.length === 0) return null;
  const save = () => {
    const sheet = new Blob([stepSheet(plan, (id) => deviceName(house, id))], { type: "text/csv" });
    const link = document.createElement("a");
    link.href = URL.createObjectURL(sheet);
    link.download = "steps.csv";
    link.click();
    URL.revokeObjectURL(link.href);
  };
  return (
    <>
      <div className="mt-4 flex items-center">
        <h3 className="text-[16px]">Steps</h3>
        <button type="button" className="btn ml-auto" onClick={save}>
          <Download aria-hidden size={14} /> Step sheet (CSV)
        </button>
      </div>
      <table className="w-full border-collapse">
        <thead>
          <tr className="border-b border-ink text-[13.5px] text-muted">
            <th scope="col" className="w-20 py-1 pr-4 text-right font-medium">
              At
            </th>
            <th scope="col" className="py-1 pr-3 font-medium">
              Device
            </th>
            <th scope="col" className="py-1 pr-3 font-medium">
              Command
            </th>
            <th scope="col" className="py-1 pr-3 font-medium">
              Then
            </th>
            <th scope="col" className="py-1 font-medium">
              Why
            </th>
          </tr>
        </thead>
        <tbody>
          {plan.steps.map((step) => {
            const wait = plan.waits.find(
              (known) => known.device === step.device && known.from_ms === step.end_ms,
            );
            return (
              <tr key={step.index} className="border-b border-rule align-top">
                <td
                  className={`py-1 pr-4 text-right font-mono ${step.critical ? "font-semibold text-accent" : ""}`}
                >
                  {clockTime(step.start_ms)}
                </td>
                <td className="py-1 pr-3 whitespace-nowrap">{deviceName(house, step.device)}</td>
                <td className="py-1 pr-3 whitespace-nowrap">
                  {step.code ? (
                    step.name
                  ) : (
                    <button
                      type="button"
                      className="link"
                      onClick={() => go("codes", { device: step.device, function: step.function })}
                    >
                      {step.name}: no code, learn it
                    </button>
                  )}
                </td>
                <td className="py-1 pr-3 text-muted">{wait?.label ?? pauseText(plan, step)}</td>
                <td className="py-1 text-muted">{step.why}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}
