import { Download, Hand, Printer } from "lucide-react";
import { useState } from "react";
import { putOver } from "../../api/entities";
import { useEdit } from "../../api/queries";
import type { HandChange, Plan, RoomPlans, Step } from "../../api/types";
import { deviceName, roomName, modelOf, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { forget, useTyped } from "../../ui/draft";
import { ProblemNote } from "../../ui/Problem";
import { clockTime, parseSeconds, readyTime, seconds } from "../../ui/time";
import { changesOf, NO_PLANS, refersTo, withChange, without, type Change } from "./hand";
import { stepSheet, waitAfter } from "./lanes";
import { situationName, situationKey } from "./situations";

/** The pause before the device takes its next command, where nothing settles meanwhile. */
function pauseText(plan: Plan, step: Step): string {
  const pause = waitAfter(plan, step);
  return pause === undefined ? "" : `pause · ${seconds(pause)} until its next command`;
}

/** The plan as a sheet: what, when, why; and its changes by hand. */
export function Steps({ plan }: { plan: Plan }) {
  const { house, room, go, say } = useRoom();
  const edit = useEdit(house.house.id);
  const [opened, setOpened] = useState<number>();
  const own = house.rooms.find((known) => known.id === room);
  const plans: RoomPlans = own?.plans ?? NO_PLANS;
  const { from, to } = plan;
  const editable = from !== undefined && from !== null && from.is !== "unknown" && own !== undefined;
  const save = (next: RoomPlans, said: string) => {
    if (!own) return;
    edit.mutate([putOver(house, { entity: "plans", value: { ...next, room } })], {
      onSuccess: () => {
        say(`${said} Undo takes it back.`);
        setOpened(undefined);
      },
    });
  };
  const changes = editable ? changesOf(plans, from, to) : [];
  const download = () => {
    const as_of = new Date().toISOString().slice(0, 10);
    const of = { house: house.house.name, room: roomName(house, room), as_of };
    const sheet = new Blob([stepSheet(plan, (id) => deviceName(house, id), of)], { type: "text/csv" });
    const link = document.createElement("a");
    link.href = URL.createObjectURL(sheet);
    link.download = "steps.csv";
    link.click();
    URL.revokeObjectURL(link.href);
  };
  const title = `${from ? situationName(house, situationKey(from)) : ""} → ${situationName(house, situationKey(to))}`;
  return (
    <div>
      <SheetTitle title={title} ready={plan.ready_ms} download={download} />
      {edit.error && <ProblemNote text={edit.error.message} />}
      <div className="scrolls">
        <table className="w-full border-collapse">
          <StepsHead editable={editable} />
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
                    {step.by_hand && (
                      <span className="ml-2 text-[12.5px] font-semibold text-second">by hand</span>
                    )}
                  </td>
                  <td className="py-1 pr-3 text-muted">{wait?.label ?? pauseText(plan, step)}</td>
                  <td className="py-1 text-muted">
                    {step.why}
                    {editable && opened === step.index && (
                      <StepForm
                        key={step.index}
                        plan={plan}
                        step={step}
                        pending={edit.isPending}
                        onChange={(change, said) => save(withChange(plans, from, to, change), said)}
                        onClose={() => setOpened(undefined)}
                      />
                    )}
                  </td>
                  {editable && (
                    <td className="py-0.5">
                      <button
                        type="button"
                        className="btn border-transparent px-2"
                        aria-label={`Change ${step.name} of ${deviceName(house, step.device)} by hand`}
                        title="Change by hand"
                        aria-expanded={opened === step.index}
                        onClick={() => setOpened(opened === step.index ? undefined : step.index)}
                      >
                        <Hand aria-hidden size={15} />
                      </button>
                    </td>
                  )}
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      {changes.length > 0 && (
        <ByHand
          changes={changes}
          plan={plan}
          pending={edit.isPending}
          onRemove={(gone) => save(without(plans, gone), "Taken back.")}
        />
      )}
    </div>
  );
}

function StepForm({
  plan,
  step,
  pending,
  onChange: change,
  onClose,
}: {
  plan: Plan;
  step: Step;
  pending: boolean;
  onChange: (change: Change, said: string) => void;
  onClose: () => void;
}) {
  const { house } = useRoom();
  const device = house.devices.find((known) => known.id === step.device);
  const before = plan.steps
    .filter((other) => other.device === step.device && other.start_ms < step.start_ms)
    .at(-1);
  const draft = `step:${step.device} ${step.function} ${step.nth} ${step.start_ms}`;
  const onChange: typeof change = (next, said) => {
    forget(draft);
    change(next, said);
  };
  const [at, setAt] = useTyped(`${draft}:at`, seconds(step.start_ms));
  const [wait, setWait] = useTyped(`${draft}:wait`, seconds(step.start_ms - (before?.end_ms ?? 0)));
  const [extra, setExtra] = useState(step.function);
  const which = { device: step.device, function: step.function, nth: step.nth };
  const at_ms = parseSeconds(at);
  const wait_ms = parseSeconds(wait);
  return (
    <div
      className="my-1 grid gap-2 border border-rule bg-soft p-2 text-ink"
      role="group"
      aria-label={`${step.name} by hand`}
    >
      <div className="flex flex-wrap items-end gap-2">
        <label>
          <span className="label">Pause before it (s)</span>
          <input
            className="field w-24"
            value={wait}
            autoFocus
            onChange={(event) => setWait(event.target.value)}
          />
        </label>
        <button
          type="button"
          className="btn"
          disabled={pending || wait_ms === undefined}
          onClick={() =>
            onChange({ change: "wait", ...which, ms: wait_ms ?? 0 }, `Pause before ${step.name} set.`)
          }
        >
          Set pause
        </button>
        <label>
          <span className="label">Starts at (s)</span>
          <input className="field w-24" value={at} onChange={(event) => setAt(event.target.value)} />
        </label>
        <button
          type="button"
          className="btn"
          disabled={pending || at_ms === undefined}
          onClick={() => onChange({ change: "pin", ...which, at_ms: at_ms ?? 0 }, `${step.name} pinned.`)}
        >
          Pin
        </button>
      </div>
      <div className="flex flex-wrap items-end gap-2">
        <div>
          <span className="label">One command more, after the last to this device</span>
          <Choice
            label="One command more"
            className="w-48"
            value={extra}
            onChange={setExtra}
            options={
              device ? modelOf(house, device).functions.map((f) => ({ value: f.id, label: f.name })) : []
            }
          />
        </div>
        <button
          type="button"
          className="btn"
          disabled={pending}
          onClick={() =>
            onChange(
              { change: "add", device: step.device, function: extra, after_ms: 1000 },
              "Command added.",
            )
          }
        >
          Add
        </button>
        <button
          type="button"
          className="btn text-stop"
          disabled={pending}
          onClick={() =>
            onChange(
              { change: "forbid", device: step.device, function: step.function },
              `${step.name} forbidden.`,
            )
          }
        >
          Never send {step.name}
        </button>
        <button type="button" className="btn ml-auto" onClick={onClose}>
          Close
        </button>
      </div>
      {(at_ms === undefined || wait_ms === undefined) && (
        <p className="text-[13px] text-stop">Seconds, such as 12 or 0.5.</p>
      )}
    </div>
  );
}

/** What was changed by hand, and what of it no longer fits. */
function ByHand({
  changes,
  plan,
  pending,
  onRemove,
}: {
  changes: HandChange[];
  plan: Plan;
  pending: boolean;
  onRemove: (gone: HandChange) => void;
}) {
  const { house } = useRoom();
  const say = (change: Change) => {
    const device = house.devices.find((known) => known.id === change.device);
    const name = device
      ? modelOf(house, device).functions.find((f) => f.id === change.function)?.name
      : undefined;
    const what = `“${name ?? "a removed function"}” of ${deviceName(house, change.device)}`;
    switch (change.change) {
      case "pin":
        return `${what} starts at ${seconds(change.at_ms)}`;
      case "wait":
        return `${seconds(change.ms)} before ${what}`;
      case "add":
        return `${what} once more`;
      case "forbid":
        return `${what} is never sent`;
    }
  };
  const fits = (change: Change) =>
    change.change === "forbid" || plan.steps.some((step) => step.by_hand && refersTo(change, step));
  return (
    <section aria-label="Changed by hand" className="no-print">
      <h3 className="mt-4 text-[16px]">Changed by hand</h3>
      <ul>
        {changes.map((known) => (
          <li
            key={JSON.stringify(known.change)}
            className="flex items-center gap-3 border-b border-rule py-0.5"
          >
            <span className="grow">
              {say(known.change)}
              {!fits(known.change) && (
                <strong className="text-caution">
                  {" "}
                  – fits no command of this plan now; it is kept, without effect
                </strong>
              )}
            </span>
            <button type="button" className="btn" disabled={pending} onClick={() => onRemove(known)}>
              Take back
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What is printed above the steps, and both ways to take them along. */
function SheetTitle({
  title,
  ready,
  download,
}: {
  title: string;
  ready: Plan["ready_ms"];
  download: () => void;
}) {
  return (
    <div className="mt-4 flex items-center gap-2">
      <h3 className="text-[16px]">
        Steps
        <span className="print-only">
          : {title}, ready after {readyTime(ready)}
        </span>
      </h3>
      <button type="button" className="btn ml-auto" onClick={() => window.print()}>
        <Printer aria-hidden size={14} /> Print
      </button>
      <button type="button" className="btn" onClick={download}>
        <Download aria-hidden size={14} /> Step sheet (CSV)
      </button>
    </div>
  );
}

/** The columns of the sheet. */
function StepsHead({ editable }: { editable: boolean }) {
  return (
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
        {editable && (
          <th scope="col" className="w-10 py-1">
            <span className="sr-only">Change by hand</span>
          </th>
        )}
      </tr>
    </thead>
  );
}
