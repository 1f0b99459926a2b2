import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, data } from "../../api/client";
import type { Amiss, ServiceCall } from "../../api/types";
import { useRoom } from "../../shell/context";
import { forget, useTyped } from "../../ui/draft";
import { dayTime } from "../../ui/when";
import { Waiting } from "../../ui/Waiting";

const WRONG: Record<Amiss, string> = {
  "no-picture": "No picture",
  "no-sound": "No sound",
  light: "Too dark or too bright",
  else: "Something else",
};

/** What the household found wrong on a surface: open calls, with how the room stood then, and what they turned out to be. */
export function CallsView() {
  const { house } = useRoom();
  const id = house.house.id;
  const calls = useQuery({
    queryKey: ["house", id, "calls"],
    queryFn: () => data(client.GET("/api/houses/{house}/calls", { params: { path: { house: id } } })),
    refetchInterval: 10_000,
  });
  if (!calls.data) return <Waiting what="the calls" error={calls.error} />;
  const open = calls.data.filter((call) => !call.closed_at);
  const closed = calls.data.filter((call) => call.closed_at);
  return (
    <div className="mt-3 max-w-4xl">
      {calls.data.length === 0 && (
        <p className="text-muted">
          Nobody has called. Whoever presses <em>Not right?</em> on a surface opens a call here, with what was
          believed, sent and seen at that moment.
        </p>
      )}
      <ul aria-label="Open calls">
        {open.map((call) => (
          <Call key={call.id} call={call} />
        ))}
      </ul>
      {closed.length > 0 && (
        <details className="mt-4">
          <summary>
            {closed.length} closed {closed.length === 1 ? "call" : "calls"}
          </summary>
          <ul aria-label="Closed calls">
            {closed.map((call) => (
              <Call key={call.id} call={call} />
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}

function Call({ call }: { call: ServiceCall }) {
  const { house } = useRoom();
  const room = house.rooms.find((known) => known.id === call.room)?.name ?? "a room that is gone";
  const facts: [string, string[] | undefined][] = [
    ["Seen", call.facts.seen],
    ["Believed", call.facts.believed],
    ["Sent, the newest last", call.facts.sent],
  ];
  return (
    <li className="border-b border-rule py-3">
      <p>
        <strong className={call.closed_at ? "" : "text-caution"}>{WRONG[call.what]}</strong> in {room}, while
        it was taken for {call.facts.taken_for ?? "nobody knew"}.{" "}
        <span className="text-muted">
          {call.said_by}, {dayTime(call.at)}
        </span>
      </p>
      <details className="mt-1">
        <summary className="text-muted">How the room stood then</summary>
        {facts.map(([name, lines]) => (
          <section key={name} className="mt-1.5">
            <h4 className="text-[13.5px] text-muted">{name}</h4>
            {lines && lines.length > 0 ? (
              <ul className="font-mono text-[13px]">
                {lines.map((line, at) => (
                  <li key={at} className="wrap-break-word">
                    {line}
                  </li>
                ))}
              </ul>
            ) : (
              <p className="text-muted">Nothing.</p>
            )}
          </section>
        ))}
      </details>
      {call.closed_at ? (
        <p className="mt-1">
          {call.outcome} <span className="text-muted">closed {dayTime(call.closed_at)}</span>
        </p>
      ) : (
        <Close call={call} />
      )}
    </li>
  );
}

/** What it was: that is how it is found again. */
function Close({ call }: { call: ServiceCall }) {
  const { house } = useRoom();
  const queries = useQueryClient();
  const draft = `call ${call.id}`;
  const [outcome, setOutcome] = useTyped(draft, "");
  const close = useMutation({
    mutationFn: () =>
      data(
        client.POST("/api/houses/{house}/calls/{call}/close", {
          params: { path: { house: house.house.id, call: call.id } },
          body: { outcome },
        }),
      ),
    onSuccess: () => {
      forget(draft);
      void queries.invalidateQueries({ queryKey: ["house", house.house.id, "calls"] });
    },
  });
  return (
    <form
      className="mt-2 flex flex-wrap items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        close.mutate();
      }}
    >
      <input
        className="field min-w-0 flex-1"
        aria-label={`What the call of ${call.said_by} was`}
        placeholder="What it was: a pulled plug, a wrong wait …"
        maxLength={2000}
        value={outcome}
        onChange={(event) => setOutcome(event.target.value)}
      />
      <button type="submit" className="btn">
        Close the call
      </button>
      {close.error && (
        <p role="alert" className="w-full text-stop">
          {close.error.message}
        </p>
      )}
    </form>
  );
}
