import { putOver } from "../../api/entities";
import { useEdit } from "../../api/queries";
import type { AdoptionRule, HouseView, InStep, Situation } from "../../api/types";
import { useRoom } from "../../shell/context";
import { ProblemNote } from "../../ui/Problem";
import { Waiting } from "../../ui/Waiting";
import { useInStep } from "./api";
import { rehearsing } from "./words";

const same = (a: Situation, b: Situation) =>
  a.is === b.is && (a.is !== "in" || b.is !== "in" || a.activity === b.activity);

type Adoption = ReturnType<typeof rehearsing>["adoption"];

/** The name of what a rule leads to. */
function leadsTo(house: HouseView, to: Situation): string {
  if (to.is !== "in") return "Off";
  return house.activities.find((known) => known.id === to.activity)?.name ?? "?";
}

/** How the room stays in step with what its devices tell: the rules as sentences, and what cannot be known. */
export function InStepView() {
  const { house, room } = useRoom();
  const found = useInStep();
  const edit = useEdit(house.house.id);
  const own = house.rooms.find((known) => known.id === room);
  if (!found.data || !own) return <Waiting what="the rules" error={found.error} />;
  const rehearsal = rehearsing(own);
  const { adoption } = rehearsal;
  const { switched_off: off, without } = adoption;
  const change = (part: Partial<typeof adoption>) =>
    edit.mutate([
      putOver(house, {
        entity: "room",
        value: {
          id: own.id,
          name: own.name,
          position: own.position,
          rack: own.rack ?? false,
          adoption: { ...adoption, ...part },
        },
      }),
    ]);
  const toggle = (rule: AdoptionRule) =>
    change({
      switched_off: off.some((known) => same(known, rule.to))
        ? off.filter((known) => !same(known, rule.to))
        : [...off, rule.to],
    });
  return (
    <div className="pt-3">
      {edit.error && <ProblemNote text={edit.error.message} />}
      <p className="max-w-[75ch]">
        When somebody uses a device’s own remote, the room is <em>adopted</em>: what the surfaces control and
        what is believed follow, and nothing is sent. To <em>complete</em> it, sound, screen and light, is a
        second step.
      </p>
      <AdoptionParts adoption={adoption} change={change} />
      <div className="scrolls">
        <table className="mt-2 w-full border-collapse" aria-label="Rules">
          <thead>
            <tr className="border-b border-ink text-[13.5px] text-muted">
              <th scope="col" className="w-40 py-1 pr-3 font-medium">
                Leads to
              </th>
              <th scope="col" className="py-1 pr-3 font-medium">
                Rule
              </th>
              <th scope="col" className="w-32 py-1 font-medium">
                In force
              </th>
            </tr>
          </thead>
          <tbody>
            {found.data.rules.map((rule, at) => (
              <RuleRow key={at} rule={rule} without={without} change={change} toggle={() => toggle(rule)} />
            ))}
          </tbody>
        </table>
      </div>
      {found.data.rules.length === 0 && (
        <p className="py-2 text-muted">There is no rule yet: add an activity in Sequences.</p>
      )}
      {found.data.findings.length > 0 && (
        <ul className="mt-3 border-l-4 border-caution bg-soft px-3 py-1.5">
          {found.data.findings.map((finding) => (
            <li key={finding.text}>
              <strong>{finding.title}.</strong> {finding.text}
            </li>
          ))}
        </ul>
      )}
      <WhatNobodyTells gaps={found.data.gaps} />
    </div>
  );
}

/** Whether what was adopted completes itself, and when a device counts as silent. */
function AdoptionParts({
  adoption,
  change,
}: {
  adoption: Adoption;
  change: (part: Partial<Adoption>) => void;
}) {
  return (
    <div className="mt-2 flex flex-wrap gap-x-6 gap-y-1">
      <label className="flex min-h-8 items-center gap-2">
        <input
          type="checkbox"
          checked={adoption.complete}
          onChange={(event) => change({ complete: event.target.checked })}
        />
        Complete what was adopted, by itself
      </label>
      <label className="flex items-center gap-2">
        A device is silent after
        <select
          className="field w-20"
          value={adoption.lost_polls}
          onChange={(event) => change({ lost_polls: Number(event.target.value) })}
        >
          {[0, 1, 2, 3, 5].map((lost) => (
            <option key={lost} value={lost}>
              {lost + 1}
            </option>
          ))}
        </select>
        lost polls
      </label>
    </div>
  );
}

/** One rule as a sentence, its conditions, and whether it is in force. */
function RuleRow({
  rule,
  without,
  change,
  toggle,
}: {
  rule: AdoptionRule;
  without: Adoption["without"];
  change: (part: Partial<Adoption>) => void;
  toggle: () => void;
}) {
  const { house } = useRoom();
  const name = (to: Situation) => leadsTo(house, to);
  return (
    <tr className="border-b border-rule align-top">
      <th scope="row" className="py-1.5 pr-3 font-semibold">
        {name(rule.to)}
        {rule.while_in && (
          <span className="block text-[13px] font-normal text-muted">
            from {name({ is: "in", activity: rule.while_in })}
          </span>
        )}
      </th>
      <td className="py-1.5 pr-3">
        {rule.sentence}
        {rule.blocked && <span className="block text-caution">{rule.blocked}</span>}
        <span className="block">
          {rule.conditions.map((condition) => (
            <label key={condition.device} className="mr-4 inline-flex min-h-8 items-center gap-1.5">
              <input
                type="checkbox"
                checked={!condition.left_out}
                onChange={() =>
                  change({
                    without: condition.left_out
                      ? without.filter(
                          (known) => known.device !== condition.device || !same(known.to, rule.to),
                        )
                      : [...without, { to: rule.to, device: condition.device }],
                  })
                }
              />
              {condition.text}
            </label>
          ))}
        </span>
      </td>
      <td className="py-1">
        <label className="flex min-h-8 items-center gap-2">
          <input
            type="checkbox"
            checked={rule.on}
            disabled={rule.blocked !== null && rule.blocked !== undefined}
            aria-label={`${name(rule.to)}: rule in force`}
            onChange={toggle}
          />
          {rule.on ? "yes" : rule.blocked ? "cannot be" : "switched off"}
        </label>
      </td>
    </tr>
  );
}

/** What no device tells, and what would help. */
function WhatNobodyTells({ gaps }: { gaps: InStep["gaps"] }) {
  return (
    <>
      <h3 className="mt-4 text-[16px]">What nobody tells</h3>
      {gaps.length === 0 ? (
        <p className="text-muted">Every device that matters tells what it is doing.</p>
      ) : (
        <ul className="border-t border-ink">
          {gaps.map((gap) => (
            <li key={gap.device + gap.text} className="border-b border-rule py-1">
              {gap.text} <span className="text-muted">What would help: {gap.sensor}.</span>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
