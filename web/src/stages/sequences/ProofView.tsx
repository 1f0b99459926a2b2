import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { client, data } from "../../api/client";
import { putOver } from "../../api/entities";
import { put, useEdit, useHands, useRemedies } from "../../api/queries";
import type {
  Cell,
  CellPlan,
  Device,
  Entity,
  Plan,
  Profile,
  Remedy,
  RoomHand,
  Situation,
  Course,
} from "../../api/types";
import { deviceName, useRoom } from "../../shell/context";
import { ProblemNote } from "../../ui/Problem";
import { clockTime, readyTime, seconds, spanText } from "../../ui/time";
import { Waiting } from "../../ui/Waiting";
import { many } from "../../ui/when";
import { rehearsing } from "../rehearse/words";
import { DiagnosisPart } from "./DiagnosisPart";
import { Lanes } from "./Lanes";
import { Limits } from "./Limits";
import { markOf, VerdictBar, VerdictLine } from "./Verdict";

type Ends = { from: string; to: string };

/** Why a cell holds or does not: the story of its failure, the remedies, and what it rests on. */
export function ProofView({
  found,
  ends,
  order,
  profiles,
}: {
  found: CellPlan;
  ends: Ends;
  order: Device[];
  profiles: Profile[];
}) {
  const { cell, plan } = found;
  return (
    <div className="max-w-[1060px]">
      <p className="border-b border-rule pb-2">
        <VerdictLine cell={cell} />
        <span className="text-muted">
          {" "}
          from {many(cell.states)} states. {found.broken_off}
        </span>
      </p>
      <Limits cell={cell} />
      {cell.light && <LightLine light={cell.light} />}
      {cell.story && (
        <StoryPart
          key={cell.story.headline}
          ends={ends}
          story={cell.story}
          cell={cell}
          plan={plan}
          order={order}
          profiles={profiles}
        />
      )}
      {cell.guarantee !== "certain" && <Remedies ends={ends} />}
      <Rests found={found} />
      <LossPart cell={cell} />
      <Hands ends={ends} />
      <DiagnosisPart ends={ends} plan={plan} />
    </div>
  );
}

/** What the cues make of the light on the way, and whether people see theirs. */
function LightLine({ light }: { light: NonNullable<Cell["light"]> }) {
  const { go } = useRoom();
  const levels = (goals: typeof light.night) =>
    goals.map((goal) => `${goal.name} ${goal.percent} %`).join(", ") || "stays as it is";
  return (
    <p className="border-b border-rule py-2" data-testid="light-of-cell">
      <strong>Light</strong> By night: {levels(light.night)}. By day: {levels(light.day)}.{" "}
      {light.wrong ? (
        <>
          <span className="text-caution">{light.wrong}</span>{" "}
          <button type="button" className="link" onClick={() => go("cues")}>
            Mend it in Cues
          </button>
        </>
      ) : (
        <span className="text-good">Nobody is left in the dark.</span>
      )}
    </p>
  );
}

function Title({ children }: { children: React.ReactNode }) {
  return <h3 className="mt-4 mb-1 text-[16px]">{children}</h3>;
}

/** The shortest wrong course of events, beat by beat on the lanes. */
function StoryPart({
  ends,
  story,
  cell,
  plan,
  order,
  profiles,
}: {
  ends: Ends;
  story: Course;
  cell: Cell;
  plan: Plan;
  order: Device[];
  profiles: Profile[];
}) {
  const { house } = useRoom();
  const [at, setAt] = useState(0);
  const beat = story.beats[at];
  const more = story.beats.length - 1;
  const shown: Plan = {
    ...plan,
    steps: plan.steps.filter(
      (step) => step.device === story.device || story.beats.some((one) => one.step === step.index),
    ),
    waits: plan.waits.filter((wait) => wait.device === story.device),
  };
  return (
    <section aria-label="Story">
      <Title>{cell.guarantee === "at-risk" ? "How it goes wrong" : "How other hands make it go wrong"}</Title>
      <p>{story.headline}</p>
      {shown.steps.length > 0 && (
        <Lanes plan={shown} devices={order} profiles={profiles} now_ms={beat?.at_ms ?? 0} />
      )}
      <ol className="mt-1">
        {story.beats.map((one, index) => (
          <li key={`${index} ${one.text}`}>
            <button
              type="button"
              className={`flex min-h-8 w-full items-baseline gap-3 px-1 text-left hover:bg-soft ${index === at ? "bg-select" : ""}`}
              aria-current={index === at ? "step" : undefined}
              onClick={() => setAt(index)}
            >
              <span className="w-14 shrink-0 text-right font-mono">{clockTime(one.at_ms)}</span>
              <span className="w-32 shrink-0 truncate text-muted">{deviceName(house, one.device)}</span>
              <span className={one.turns ? "font-semibold text-stop" : ""}>
                {one.text}
                {one.turns && <span className="sr-only"> Here it turns.</span>}
              </span>
            </button>
          </li>
        ))}
        <li className="flex min-h-8 items-baseline gap-3 px-1">
          <span className="w-14 shrink-0 text-right font-mono">{clockTime(plan.end_ms)}</span>
          <span className="w-32 shrink-0 truncate text-muted">{deviceName(house, story.device)}</span>
          <strong>{story.end}</strong>
        </li>
      </ol>
      {more > 0 && (
        <div className="mt-1 flex gap-2">
          <button type="button" className="btn" disabled={at === 0} onClick={() => setAt(at - 1)}>
            Back
          </button>
          <button type="button" className="btn" disabled={at === more} onClick={() => setAt(at + 1)}>
            Next step
          </button>
        </div>
      )}
      <AsEvening ends={ends} />
    </section>
  );
}

/** The story as an evening in the rehearsal room: watched there, or kept as a test of the house. */
function AsEvening({ ends }: { ends: Ends }) {
  const { house, room, go } = useRoom();
  const params = { path: { house: house.house.id, room } };
  const edit = useEdit(house.house.id);
  const example = useMutation({
    mutationFn: () =>
      data(
        client.GET("/api/houses/{house}/rooms/{room}/plan/counterexample", {
          params: { ...params, query: ends },
        }),
      ),
  });
  const watch = useMutation({
    mutationFn: async () => {
      const found = await example.mutateAsync();
      if (!found) return;
      await data(
        client.POST("/api/houses/{house}/rooms/{room}/rehearsal/play", {
          params,
          body: { events: found.story.events },
        }),
      );
      go("rehearse");
    },
  });
  const keep = useMutation({
    mutationFn: async () => {
      const found = await example.mutateAsync();
      const own = house.rooms.find((known) => known.id === room);
      if (!found || !own) return;
      const rehearsal = rehearsing(own);
      const names = new Set(rehearsal.stories.map((story) => story.name));
      let name = found.story.name;
      for (let more = 2; names.has(name); more += 1) name = `${found.story.name} (${more})`;
      const position = Math.max(-1, ...rehearsal.stories.map((story) => story.position ?? 0)) + 1;
      await edit.mutateAsync([
        putOver(house, { entity: "story", value: { ...found.story, name, position, room } }),
      ]);
    },
  });
  const trouble = watch.error ?? keep.error;
  const busy = watch.isPending || keep.isPending;
  return (
    <div className="mt-1 flex flex-wrap items-center gap-2">
      <button type="button" className="btn" disabled={busy} onClick={() => watch.mutate()}>
        Rehearse this story
      </button>
      <button type="button" className="btn" disabled={busy} onClick={() => keep.mutate()}>
        Keep it as a test
      </button>
      {busy && <span className="text-muted">Playing it…</span>}
      {keep.isSuccess && <span className="text-good">Kept in Rehearse ▸ Stories.</span>}
      {example.data && example.data.ends_wrong.length === 0 && (
        <span>In the rehearsal room the runtime does better: a device tells it what it is.</span>
      )}
      {trouble && <ProblemNote text={trouble.message} />}
    </div>
  );
}

/** What would help, each solved again; applying one is a step of the history. */
function Remedies({ ends }: { ends: Ends }) {
  const { house, room, say } = useRoom();
  const remedies = useRemedies(house.house.id, room, ends);
  const edit = useEdit(house.house.id);
  const apply = (remedy: Remedy) => {
    const edits = remedy.changes.map((entity: Entity) => putOver(house, entity));
    edit.mutate(edits, { onSuccess: () => say(`${remedy.title}. Undo takes it back.`) });
  };
  return (
    <section aria-label="Remedies">
      <Title>Remedies</Title>
      {!remedies.data && <Waiting what="the remedies" error={remedies.error} />}
      {edit.error && <ProblemNote text={edit.error.message} />}
      {remedies.data?.length === 0 && <p className="text-muted">None is known for this one.</p>}
      {remedies.data && remedies.data.length > 0 && (
        <div className="scrolls">
          <table className="w-full border-collapse">
            <thead>
              <tr className="border-b border-ink text-[13.5px] text-muted">
                <th scope="col" className="py-1 pr-3 font-medium">
                  What is done, and what it takes
                </th>
                <th scope="col" className="w-64 py-1 pr-3 font-medium">
                  Then it is
                </th>
                <th scope="col" className="w-36 py-1 pr-3 text-right font-medium">
                  Ready after
                </th>
                <th scope="col" className="w-20 py-1">
                  <span className="sr-only">Apply</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {remedies.data.map((remedy) => (
                <tr key={remedy.title} className="border-b border-rule align-top">
                  <td className="py-1 pr-3">
                    <strong>{remedy.title}</strong>
                    <span className="block text-[13.5px] text-muted">{remedy.takes}</span>
                  </td>
                  <td className="py-1 pr-3">
                    <span className="flex items-start gap-2">
                      <span className="mt-1.5">
                        <VerdictBar
                          mark={markOf({
                            guarantee: remedy.guarantee ?? "at-risk",
                            waits_hold: remedy.waits_hold,
                          })}
                          width={26}
                        />
                      </span>
                      <span>
                        {remedy.verdict}
                        {remedy.at_risk > 0 && (
                          <span className="block text-[12.5px] text-stop">
                            {remedy.at_risk} {remedy.at_risk === 1 ? "cell" : "cells"} of the room at risk
                            then
                          </span>
                        )}
                      </span>
                    </span>
                  </td>
                  <td className="py-1 pr-3 text-right font-mono">
                    {readyTime(remedy.ready_ms)}
                    <span className="block text-[12.5px] text-muted">{changeText(remedy.change_ms)}</span>
                  </td>
                  <td className="py-1">
                    <button
                      type="button"
                      className="btn"
                      disabled={edit.isPending}
                      aria-label={`Apply: ${remedy.title}`}
                      onClick={() => apply(remedy)}
                    >
                      Apply
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

function changeText(ms: number | null | undefined): string {
  if (ms == null || Math.abs(ms) < 50) return "as now";
  return ms > 0 ? `${seconds(ms)} later` : `${seconds(-ms)} sooner`;
}

const BASIS: Record<string, string> = {
  assumed: "assumed",
  profile: "from the profile",
  measured: "measured",
  confirmed: "confirmed by the device",
};

/** The waits that the verdict needs, the weakest first. */
function Rests({ found }: { found: CellPlan }) {
  const { house, say } = useRoom();
  const edit = useEdit(house.house.id);
  const [typed, setTyped] = useState<string>();
  const coverage = house.house.coverage_percent ?? 90;
  if (found.rests.length === 0) return null;
  const save = () => {
    const value = Number(typed);
    if (typed === undefined || value === coverage) return setTyped(undefined);
    edit.mutate(
      [
        put(
          { entity: "house", value: { ...house.house, coverage_percent: value } },
          house.versions[house.house.id],
        ),
      ],
      {
        onSuccess: (saved) => {
          setTyped(undefined);
          say(saved.title);
        },
      },
    );
  };
  return (
    <section aria-label="What it rests on">
      <Title>What it rests on</Title>
      {found.cell.together_percent != null && (
        <p className="text-muted">All of them hold together with at least {found.cell.together_percent} %.</p>
      )}
      <div className="scrolls">
        <table className="w-full border-collapse">
          <thead>
            <tr className="border-b border-ink text-[13.5px] text-muted">
              <th scope="col" className="py-1 pr-3 font-medium">
                Wait
              </th>
              <th scope="col" className="w-32 py-1 pr-3 text-right font-medium">
                Takes
              </th>
              <th scope="col" className="w-44 py-1 pr-3 font-medium">
                Known from
              </th>
              <th scope="col" className="w-72 py-1 font-medium">
                Does it hold
              </th>
            </tr>
          </thead>
          <tbody>
            {found.rests.map((rest) => (
              <tr key={rest.what} className="border-b border-rule">
                <td className="py-1 pr-3">{rest.what}</td>
                <td className="py-1 pr-3 text-right font-mono">
                  {spanText(rest.span.lo_ms, rest.span.hi_ms)}
                </td>
                <td className="py-1 pr-3">
                  {BASIS[rest.span.basis.from]}
                  {rest.span.basis.from === "measured" && ` ${rest.span.basis.n} ×`}
                </td>
                <td className={`py-1 ${rest.holds ? "text-good" : "text-caution"}`}>
                  {rest.holds
                    ? rest.coverage_percent != null
                      ? `yes: covers ${rest.coverage_percent} % of times`
                      : "yes"
                    : `not yet: ${rest.lacks} measurements are missing`}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-2 text-[13.5px]">
        <label htmlFor="coverage">A measured wait has to cover</label>
        <input
          id="coverage"
          className="field w-16 text-right"
          inputMode="numeric"
          value={typed ?? String(coverage)}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={save}
          onKeyDown={(event) => event.key === "Enter" && save()}
        />
        % of times in this house (90 % takes 9 measurements).
        {edit.error && <ProblemNote text={edit.error.message} />}
      </div>
    </section>
  );
}

/** A probability in %, short. */
export function percent(p: number): string {
  const value = p * 100;
  if (value === 0) return "0 %";
  return `${value < 0.1 ? "< 0.1" : value < 10 ? value.toFixed(1) : Math.round(value)} %`;
}

/** How likely a lost press spoils it. */
function LossPart({ cell }: { cell: Cell }) {
  const { house, go } = useRoom();
  const { fails, untested, raises } = cell.loss;
  if (cell.sends === 0) return null;
  return (
    <section aria-label="Lost presses">
      <Title>Lost presses</Title>
      {fails ? (
        <p>
          It fails by a lost press {percent(fails.lo)} to {percent(fails.hi)} of times (95 % range of the
          counted presses).
        </p>
      ) : (
        <p className="text-muted">No tests yet: count lost presses at a device’s control paths, in Kit.</p>
      )}
      {untested.length > 0 && (
        <p className="text-[13.5px] text-muted">
          Without tests, and not counted in:{" "}
          {untested.map((device, index) => (
            <span key={device}>
              {index > 0 && ", "}
              <button type="button" className="link" onClick={() => go("kit", { device })}>
                {deviceName(house, device)}
              </button>
            </span>
          ))}
          .
        </p>
      )}
      {raises.length > 0 && (
        <ul className="mt-1">
          {raises.map((raise) => (
            <li key={raise.what} className="flex flex-wrap gap-x-3 border-b border-rule py-1">
              <span className="grow">{raise.what}</span>
              <span>
                then {percent(raise.fails.lo)} to {percent(raise.fails.hi)}
              </span>
              <span className="w-32 text-right font-mono">+{seconds(raise.costs_ms)}</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** What the next plan does after other hands. */
function Hands({ ends }: { ends: Ends }) {
  const { house, room } = useRoom();
  const watch = useWatchHand(ends);
  const hands = useHands(house.house.id, room, ends);
  if (!hands.data) return <Waiting what="what other hands do" error={hands.error} />;
  const wrong = hands.data.filter((hand) => !hand.ends_right);
  return (
    <details className="mt-4">
      <summary className="cursor-pointer text-[16px] font-semibold">
        Other hands: {hands.data.length} tried,{" "}
        {wrong.length === 0 ? "all end right" : `${wrong.length} end wrong`}
      </summary>
      <ul className="mt-1">
        {hands.data.map((hand, index) => (
          <li key={`${index} ${hand.what}`} className="flex gap-3 border-b border-rule py-1">
            <span className={`w-20 shrink-0 font-semibold ${hand.ends_right ? "text-good" : "text-stop"}`}>
              {hand.ends_right ? "right" : "wrong"}
            </span>
            <span>
              {deviceName(house, hand.device)}: {hand.what}; then it was {hand.left}.{" "}
              {hand.story && <span className="text-muted">{hand.story}</span>}{" "}
              {hand.rehearse && (
                <button
                  type="button"
                  className="text-accent underline"
                  onClick={() => watch.mutate(hand.rehearse as RoomHand)}
                >
                  Rehearse it
                </button>
              )}
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}

/** Plays what a hand does between two macros in the rehearsal room, at ten times real time, and goes there. */
function useWatchHand(ends: Ends) {
  const { house, room, go } = useRoom();
  const params = { path: { house: house.house.id, room } };
  return useMutation({
    mutationFn: async (hand: RoomHand) => {
      const at = (word: string): Situation => (word === "off" ? { is: "off" } : { is: "in", activity: word });
      await data(
        client.POST("/api/houses/{house}/rooms/{room}/rehearsal/rate", { params, body: { rate: 10 } }),
      );
      await data(
        client.POST("/api/houses/{house}/rooms/{room}/rehearsal/play", {
          params,
          body: {
            events: [
              { at_ms: 0, is: "request", to: at(ends.from) },
              { at_ms: 100_000, is: "hand", hand },
              { at_ms: 115_000, is: "request", to: at(ends.to) },
            ],
          },
        }),
      );
    },
    onSuccess: () => go("rehearse"),
  });
}
