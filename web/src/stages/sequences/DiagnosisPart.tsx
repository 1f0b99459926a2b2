import { useState } from "react";
import { useDiagnosis } from "../../api/queries";
import type { Diagnosis, Plan, SeenAfter } from "../../api/types";
import { deviceName, profileOf, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { Waiting } from "../../ui/Waiting";

type Ends = { from: string; to: string };
type Tick = "yes" | "no" | "open";

const OPEN = { value: "open", label: "not asked" };

/** What a client saw, ticked; the causes that can have produced it, likeliest first. */
export function DiagnosisPart({ ends, plan }: { ends: Ends; plan: Plan }) {
  const { house, room, devices } = useRoom();
  const [picture, setPicture] = useState<Tick>("open");
  const [sound, setSound] = useState<Tick>("open");
  const [seen, setSeen] = useState<Record<string, string>>({});
  const told = (tick: Tick) => (tick === "open" ? null : tick === "yes");
  const asked: SeenAfter = {
    picture: told(picture),
    sound: told(sound),
    devices: Object.entries(seen)
      .filter(([, value]) => value !== "open")
      .map(([device, value]) => ({
        device,
        on: value === "on" || value.startsWith("input ") ? true : value === "off" ? false : null,
        input: value.startsWith("input ") ? value.slice(6) : null,
        down: value === "down" ? true : value === "not-down" ? false : null,
      })),
  };
  const something = asked.picture != null || asked.sound != null || (asked.devices?.length ?? 0) > 0;
  const diagnosis = useDiagnosis(house.house.id, room, ends, something ? asked : undefined);
  const used = devices.filter((device) => {
    const profile = profileOf(house, device);
    return (
      profile.motion ||
      (profile.power.how !== "always-on" && plan.goals.some((goal) => goal.device === device.id))
    );
  });
  const yesNo = [OPEN, { value: "yes", label: "yes" }, { value: "no", label: "no" }];
  return (
    <details className="mt-4" id="diagnosis">
      <summary className="cursor-pointer text-[16px] font-semibold">What was seen? Find the cause</summary>
      <p className="mt-1 text-muted">Tick what a client saw after this macro; leave the rest open.</p>
      <div className="mt-2 grid max-w-[920px] grid-cols-2 gap-x-5 gap-y-2 md:grid-cols-4">
        {plan.to.is === "in" && (
          <>
            <Ask
              label="A picture"
              value={picture}
              onChange={(value) => setPicture(value as Tick)}
              options={yesNo}
            />
            <Ask label="Sound" value={sound} onChange={(value) => setSound(value as Tick)} options={yesNo} />
          </>
        )}
        {used.map((device) => {
          const profile = profileOf(house, device);
          const options = profile.motion
            ? [OPEN, { value: "down", label: "down" }, { value: "not-down", label: "not down" }]
            : [
                OPEN,
                { value: "on", label: "on" },
                { value: "off", label: "off" },
                ...(profile.inputs.length > 1
                  ? profile.inputs.map((input) => ({
                      value: `input ${input.id}`,
                      label: `on, ${input.name}`,
                    }))
                  : []),
              ];
          return (
            <Ask
              key={device.id}
              label={device.name}
              value={seen[device.id] ?? "open"}
              onChange={(value) => setSeen({ ...seen, [device.id]: value })}
              options={options}
            />
          );
        })}
      </div>
      {something && !diagnosis.data && <Waiting what="the diagnosis" error={diagnosis.error} />}
      {something && diagnosis.data && (
        <Found diagnosis={diagnosis.data} stale={diagnosis.isPlaceholderData} />
      )}
      {!something && plan.goals.length > 0 && (
        <p className="mt-2 text-[13.5px] text-muted">
          As planned,{" "}
          {plan.goals
            .filter((goal) => goal.needed && goal.wish)
            .map((goal) => `${deviceName(house, goal.device)} is ${goal.wish}`)
            .join(", ")}
          .
        </p>
      )}
    </details>
  );
}

function Ask({
  label,
  value,
  onChange,
  options,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  options: { value: string; label: string }[];
}) {
  return (
    <div>
      <span className="label">{label}</span>
      <Choice label={label} value={value} onChange={onChange} options={options} />
    </div>
  );
}

/** The causes, likeliest first, and the check that tells them apart best. */
function Found({ diagnosis, stale }: { diagnosis: Diagnosis; stale: boolean }) {
  return (
    <div className={`mt-3 ${stale ? "opacity-60" : ""}`} role="status">
      {diagnosis.as_planned && <p>This is also what the plan itself leads to.</p>}
      {diagnosis.explanations.length === 0 && !diagnosis.as_planned && (
        <p>
          No one or two causes that are known here produce this. Leave something open, or look for a cable, a
          setting or a fault.
        </p>
      )}
      <ol>
        {diagnosis.explanations.map((one) => (
          <li key={one.causes.join()} className="flex gap-3 border-b border-rule py-1">
            <span className="w-14 shrink-0 text-right font-mono">{Math.round(one.share_percent)} %</span>
            <span>
              {one.causes.join("; and ")}.
              <span className="block text-[13.5px] text-muted">{one.leaves.join(" · ")}</span>
            </span>
          </li>
        ))}
      </ol>
      {diagnosis.next && (
        <p className="mt-2">
          <strong>Next: {diagnosis.next.look.charAt(0).toLowerCase() + diagnosis.next.look.slice(1)}.</strong>{" "}
          {diagnosis.next.answers
            .map((answer) => `${answer.seen}: ${answer.leaves} left (${Math.round(answer.share_percent)} %)`)
            .join("; ")}
          .
        </p>
      )}
      <p className="mt-1 text-[13.5px] text-muted">
        Shares rank the causes against each other. They rest on counted presses and on how well each wait is
        known; the rest is assumed.
      </p>
    </div>
  );
}
