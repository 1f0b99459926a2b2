import { Trash2 } from "lucide-react";
import { useState } from "react";
import { putOver } from "../../api/entities";
import { useEdit, useSchools } from "../../api/queries";
import type { Entity, OrderRule, Plan, RoomPlans, Schools } from "../../api/types";
import { deviceName, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { NO_PLANS } from "./hand";
import { ProblemNote } from "../../ui/Problem";
import { clockTime } from "../../ui/time";
import { Waiting } from "../../ui/Waiting";

const WHEN = { starting: "when an activity starts", stopping: "when the room goes off", always: "always" };

/** What goes before what, and the two schools of control over HDMI. */
export function RulesView({ plan }: { plan: Plan }) {
  return (
    <div className="max-w-[900px]">
      <OrderRules plan={plan} />
      <TwoSchools />
    </div>
  );
}

function OrderRules({ plan }: { plan: Plan }) {
  const { house, room, devices, say } = useRoom();
  const edit = useEdit(house.house.id);
  const own = house.rooms.find((known) => known.id === room);
  const [device, setDevice] = useState(devices[0]?.id ?? "");
  const [goes, setGoes] = useState("first");
  const [when, setWhen] = useState<keyof typeof WHEN>("starting");
  if (!own) return null;
  const plans: RoomPlans = own.plans ?? NO_PLANS;
  const rules = plans.rules ?? [];
  const save = (next: OrderRule[], said: string) =>
    edit.mutate([putOver(house, { entity: "plans", value: { ...plans, rules: next, room } })], {
      onSuccess: () => say(said),
    });
  const options = devices.map((known) => ({ value: known.id, label: known.name }));
  const words = (rule: OrderRule) => {
    const place = rule.goes === "after" ? `after ${deviceName(house, rule.other)}` : rule.goes;
    return `${deviceName(house, rule.device)} ${place}, ${WHEN[rule.when]}`;
  };
  const add = () => {
    const rule: OrderRule =
      goes === "first" || goes === "last"
        ? { device, goes, when }
        : { device, goes: "after", other: goes, when };
    save([...rules, rule], "Rule added. Undo takes it back.");
  };
  return (
    <section aria-label="Order rules">
      <h3 className="text-[16px]">Order</h3>
      <p className="text-muted">
        The longest warm-up starts first and the screen moves meanwhile by themselves: that is the least time.
        These rules are kept besides.
      </p>
      <ul className="mt-1">
        {plan.rules
          .filter((rule) => rule.built_in)
          .map((rule) => (
            <li key={rule.text} className="border-b border-rule py-1">
              {rule.text}
            </li>
          ))}
        {rules.map((rule, index) => (
          <li key={`${index} ${words(rule)}`} className="flex items-center gap-3 border-b border-rule py-0.5">
            <span className="grow">{words(rule)}</span>
            <button
              type="button"
              className="btn border-transparent px-2"
              aria-label={`Remove the rule: ${words(rule)}`}
              disabled={edit.isPending}
              onClick={() =>
                save(
                  rules.filter((known) => known !== rule),
                  "Rule removed. Undo takes it back.",
                )
              }
            >
              <Trash2 aria-hidden size={15} />
            </button>
          </li>
        ))}
      </ul>
      {plan.rules.length === 0 && rules.length === 0 && <p className="py-1">No rule bears on this plan.</p>}
      <div className="mt-2 flex flex-wrap items-end gap-2">
        <div>
          <span className="label">Commands to</span>
          <Choice
            label="Commands to"
            className="w-44"
            value={device}
            onChange={setDevice}
            options={options}
          />
        </div>
        <div>
          <span className="label">go</span>
          <Choice
            label="go"
            className="w-52"
            value={goes}
            onChange={setGoes}
            options={[
              { value: "first", label: "first" },
              { value: "last", label: "last" },
              ...options
                .filter((known) => known.value !== device)
                .map((known) => ({ ...known, label: `after ${known.label}` })),
            ]}
          />
        </div>
        <div>
          <span className="label">in plans</span>
          <Choice
            label="in plans"
            className="w-56"
            value={when}
            onChange={(value) => setWhen(value as keyof typeof WHEN)}
            options={Object.entries(WHEN).map(([value, label]) => ({ value, label }))}
          />
        </div>
        <button type="button" className="btn" disabled={edit.isPending || !device} onClick={add}>
          Add rule
        </button>
      </div>
      {edit.error && <ProblemNote text={edit.error.message} />}
    </section>
  );
}

/** Control over HDMI: switched off, or left on and followed. */
function TwoSchools() {
  const { house, room, say } = useRoom();
  const schools = useSchools(house.house.id, room);
  const edit = useEdit(house.house.id);
  if (!schools.data) return <Waiting what="the two schools" error={schools.error} />;
  const found: Schools = schools.data;
  const off = () =>
    edit.mutate(
      found.changes.map((entity: Entity) => putOver(house, entity)),
      { onSuccess: () => say("Control over HDMI is off in this room. Undo takes it back.") },
    );
  return (
    <section aria-label="Two schools">
      <h3 className="mt-5 text-[16px]">Control over HDMI: two schools</h3>
      {!found.couples ? (
        <p className="text-muted">
          No device of this room does anything by itself over HDMI. A device that does is described in Kit, at
          “Control over HDMI”.
        </p>
      ) : (
        <>
          <div className="scrolls">
            <table className="mt-1 border-collapse">
              <thead>
                <tr className="border-b border-ink text-[13.5px] text-muted">
                  <th scope="col" className="py-1 pr-6 font-medium">
                    School
                  </th>
                  {["certain", "if nobody else", "at risk", "slowest start", "sends in all"].map((name) => (
                    <th key={name} scope="col" className="py-1 pl-4 text-right font-medium">
                      {name}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {(
                  [
                    ["left on and followed", found.on],
                    ["switched off everywhere", found.off],
                  ] as const
                ).map(([name, school]) => (
                  <tr key={name} className="border-b border-rule">
                    <th scope="row" className="py-1 pr-6 text-left font-normal">
                      {name}
                    </th>
                    {[
                      school.certain,
                      school.if_nobody_else,
                      school.at_risk,
                      clockTime(school.slowest_ms),
                      school.sends,
                    ].map((value, index) => (
                      <td key={index} className="py-1 pl-4 text-right font-mono">
                        {value}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <button type="button" className="btn mt-2" disabled={edit.isPending} onClick={off}>
            Switch it off in this room
          </button>
          {edit.error && <ProblemNote text={edit.error.message} />}
        </>
      )}
    </section>
  );
}
