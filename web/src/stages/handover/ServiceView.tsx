import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, data } from "../../api/client";
import { putOver } from "../../api/entities";
import { takeOver, useEdit } from "../../api/queries";
import type { Before, ClientSays, ServiceCause, Situation } from "../../api/types";
import { useRoom } from "../../shell/context";
import { ProblemNote } from "../../ui/Problem";
import { Waiting } from "../../ui/Waiting";
import { CallsView } from "../rehearse/CallsView";
import { useRoomPath } from "./api";
import { Compared } from "./PapersView";

type Seen = "picture" | "sound" | "light" | "screen" | "remote";

const SEEN: readonly (readonly [Seen, string])[] = [
  ["picture", "Picture"],
  ["sound", "Sound"],
  ["light", "Light"],
  ["screen", "Screen, blinds"],
  ["remote", "Remote, phone"],
];

const BEFORE: readonly (readonly [Before, string])[] = [
  ["power-cut", "a power cut"],
  ["new-device", "something new was put in"],
  ["update", "an update"],
  ["hands", "children, or cleaning"],
];

/** Nothing has been said yet. */
const SILENT: ClientSays = { answers: {} };

/** What the client said, as a sentence. */
export function saidWords(says: ClientSays): string {
  const words = SEEN.flatMap(([one, name]) => {
    const fine = says[one];
    return fine == null ? [] : [`${fine ? "" : "no "}${name.toLowerCase()}${fine ? " is fine" : ""}`];
  });
  const before = BEFORE.find(([one]) => one === says.before)?.[1];
  return [words.join(", "), before && `since ${before}`].filter(Boolean).join(" ");
}

/** The service call: what is seen, what it can be, what to ask next, what it was. */
export function ServiceView() {
  const { house, room } = useRoom();
  const params = useRoomPath();
  const [says, setSays] = useState<ClientSays>(SILENT);
  const [asked, setAsked] = useState<Record<string, string>>({});
  const [began, setBegan] = useState(() => Date.now());
  const view = useQuery({
    queryKey: ["house", house.house.id, "service", room, says, house.revision],
    queryFn: () => data(client.POST("/api/houses/{house}/rooms/{room}/service", { params, body: says })),
    placeholderData: (before) => before,
  });
  const tick = (one: Seen, fine: boolean) => setSays({ ...says, [one]: says[one] === fine ? null : fine });
  const answer = (yes: boolean) => {
    const next = view.data?.next;
    if (!next) return;
    setAsked({ ...asked, [next.id]: next.text });
    setSays({ ...says, answers: { ...says.answers, [next.id]: yes } });
  };
  const again = () => {
    setSays(SILENT);
    setAsked({});
    setBegan(Date.now());
  };
  const activities = house.activities.filter((own) => own.room === room);
  const wanted = says.to?.is === "in" ? says.to.activity : says.to?.is === "off" ? "off" : "";
  const spoken = saidWords(says);
  return (
    <div className="mt-3 grid gap-x-10 gap-y-5 xl:grid-cols-2">
      <section aria-label="What the client says">
        <h3 className="text-[16px]">What the client says</h3>
        <table className="mt-1 border-collapse">
          <tbody>
            {SEEN.map(([one, name]) => (
              <tr key={one}>
                <th scope="row" className="py-1 pr-4 font-normal">
                  {name}
                </th>
                <td className="flex gap-1 py-1">
                  {([true, false] as const).map((fine) => (
                    <button
                      key={String(fine)}
                      type="button"
                      aria-pressed={says[one] === fine}
                      className={`btn ${says[one] === fine ? "bg-select" : ""}`}
                      onClick={() => tick(one, fine)}
                    >
                      {fine ? "as it should be" : "not"}
                    </button>
                  ))}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <div className="mt-2 flex flex-wrap gap-x-6 gap-y-2">
          <label>
            <span className="label">After what</span>
            <select
              className="field w-56"
              value={says.before ?? ""}
              onChange={(event) =>
                setSays({ ...says, before: event.target.value ? (event.target.value as Before) : null })
              }
            >
              <option value="">nobody knows</option>
              {BEFORE.map(([one, label]) => (
                <option key={one} value={one}>
                  {label}
                </option>
              ))}
            </select>
          </label>
          <label>
            <span className="label">What was asked for last</span>
            <select
              className="field w-56"
              value={wanted}
              onChange={(event) => {
                const value = event.target.value;
                const to: Situation | null =
                  value === "" ? null : value === "off" ? { is: "off" } : { is: "in", activity: value };
                setSays({ ...says, to });
              }}
            >
              <option value="">anything</option>
              {activities.map((own) => (
                <option key={own.id} value={own.id}>
                  {own.name}
                </option>
              ))}
              <option value="off">off</option>
            </select>
          </label>
        </div>
        {Object.keys(says.answers ?? {}).length > 0 && (
          <ul className="mt-2" aria-label="Answers">
            {Object.entries(says.answers ?? {}).map(([id, yes]) => (
              <li key={id} className="text-muted">
                {asked[id]} <strong className="text-ink">{yes ? "Yes" : "No"}</strong>
              </li>
            ))}
          </ul>
        )}
        {view.data?.next && (
          <div className="mt-3 border-l-4 border-accent pl-3">
            <p className="text-[13px] text-muted">
              Ask this next: it tells {view.data.tells_bits.toFixed(2)} bit
            </p>
            <p className="text-[17px]" data-testid="next-question">
              {view.data.next.text}
            </p>
            <p className="mt-1 flex gap-2">
              <button type="button" className="btn min-h-10" onClick={() => answer(true)}>
                Yes
              </button>
              <button type="button" className="btn min-h-10" onClick={() => answer(false)}>
                No
              </button>
            </p>
          </div>
        )}
        <p className="mt-3">
          <button type="button" className="link" onClick={again}>
            Another call
          </button>
        </p>
      </section>
      <section aria-label="What it can be">
        <h3 className="text-[16px]">What it can be</h3>
        {!view.data && <Waiting what="the causes" error={view.error} />}
        {view.data && (
          <>
            <p className="mb-1" data-testid="next-check">
              <span className="text-muted">Next check:</span> <strong>{view.data.check}</strong>
            </p>
            <ol aria-label="Causes">
              {view.data.causes.slice(0, 8).map((cause) => (
                <CauseLine key={cause.id} cause={cause} />
              ))}
            </ol>
            <p className="mt-1 text-[13px] text-muted">
              Weights from this house’s own calls and common practice together; they order causes and prove
              nothing.
            </p>
          </>
        )}
      </section>
      <Outcome
        key={began}
        said={spoken}
        says={says}
        causes={view.data?.causes ?? []}
        began={began}
        onDone={again}
      />
      <section aria-label="Calls of the household">
        <h3 className="text-[16px]">Calls of the household</h3>
        <CallsView />
      </section>
      <Since />
    </div>
  );
}

/** What has changed since the last handover stands beside the call. */
function Since() {
  const { house } = useRoom();
  const id = house.house.id;
  const all = useQuery({
    queryKey: ["house", id, "handovers"],
    queryFn: () => data(client.GET("/api/houses/{house}/handovers", { params: { path: { house: id } } })),
  });
  const last = all.data?.[0];
  if (!last) return null;
  return (
    <section aria-label="Since the last handover">
      <h3 className="text-[16px]">Since handover {last.number}</h3>
      <Compared number={last.number} />
    </section>
  );
}

function CauseLine({ cause }: { cause: ServiceCause }) {
  const { house, room } = useRoom();
  const edit = useEdit(house.house.id);
  const order = () =>
    cause.order &&
    edit.mutate([
      putOver(house, {
        entity: "order",
        value: {
          id: crypto.randomUUID(),
          room,
          what: cause.order,
          quantity: 1,
          state: "wanted",
          note: "from a service call",
        },
      }),
    ]);
  return (
    <li className="flex gap-3 border-b border-rule py-1">
      <span className="w-14 shrink-0 text-right font-mono">{cause.percent.toFixed(0)} %</span>
      <span className="min-w-0">
        {cause.text} <span className="text-muted">{cause.remedy}</span>
        {cause.order && (
          <button type="button" className="link ml-2" onClick={order}>
            Order {cause.order}
          </button>
        )}
      </span>
    </li>
  );
}

/** What it was: a line of the log, with the minutes, by which causes are weighed next time. */
function Outcome({
  said,
  says,
  causes,
  began,
  onDone,
}: {
  said: string;
  says: ClientSays;
  causes: ServiceCause[];
  began: number;
  onDone: () => void;
}) {
  const { house, say } = useRoom();
  const params = useRoomPath();
  const queries = useQueryClient();
  const [cause, setCause] = useState("");
  const [outcome, setOutcome] = useState("");
  const [minutes, setMinutes] = useState("");
  const [keep, setKeep] = useState(true);
  const known = causes.find((one) => one.id === cause);
  const write = useMutation({
    mutationFn: () =>
      data(
        client.POST("/api/houses/{house}/rooms/{room}/service/outcome", {
          params,
          body: {
            said,
            outcome: outcome.trim(),
            cause: cause || null,
            says,
            story: keep && (known?.becomes_story ?? false),
            minutes: minutes
              ? Number(minutes)
              : Math.min(6000, Math.max(1, Math.round((Date.now() - began) / 60_000))),
          },
        }),
      ),
    onSuccess: (written) => {
      if (written.saved) takeOver(queries, written.saved.changed);
      say(
        written.story
          ? `The call is in the logbook, and a story in Rehearse: ${written.story}`
          : "The call is in the logbook",
      );
      void queries.invalidateQueries({ queryKey: ["house", house.house.id, "logbook"] });
      onDone();
    },
  });
  return (
    <form
      aria-label="What it was"
      onSubmit={(event) => {
        event.preventDefault();
        if (outcome.trim()) write.mutate();
      }}
    >
      <h3 className="text-[16px]">What it was</h3>
      <label className="mt-1 block">
        <span className="label">Cause</span>
        <select
          className="field"
          value={cause}
          onChange={(event) => {
            setCause(event.target.value);
            const one = causes.find((own) => own.id === event.target.value);
            if (one && !outcome) setOutcome(one.text);
          }}
        >
          <option value="">none of these</option>
          {causes.map((one) => (
            <option key={one.id} value={one.id}>
              {one.text}
            </option>
          ))}
        </select>
      </label>
      <label className="mt-1 block">
        <span className="label">In words, and what was done</span>
        <textarea
          className="field min-h-16"
          maxLength={2000}
          value={outcome}
          onChange={(event) => setOutcome(event.target.value)}
        />
      </label>
      <div className="mt-1 flex flex-wrap items-center gap-2">
        <input
          className="field w-24"
          aria-label="Minutes of the call"
          placeholder="minutes"
          inputMode="numeric"
          value={minutes}
          onChange={(event) => setMinutes(event.target.value.replace(/\D/g, ""))}
        />
        <button type="submit" className="btn btn-main" disabled={!outcome.trim() || write.isPending}>
          Write it down
        </button>
        {known?.becomes_story && (
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={keep} onChange={(event) => setKeep(event.target.checked)} />
            Keep it as a story: a test of this house from now on
          </label>
        )}
      </div>
      {write.error && <ProblemNote text={write.error.message} />}
    </form>
  );
}
