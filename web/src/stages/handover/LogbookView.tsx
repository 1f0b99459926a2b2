import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, data, surely } from "../../api/client";
import { takeOver } from "../../api/queries";
import type { LineKind, LogbookLine, RestoreRequest } from "../../api/types";
import { deviceName, useRoom } from "../../shell/context";
import { ProblemNote } from "../../ui/Problem";
import { dayTime, localClocks } from "../../ui/when";
import { Waiting } from "../../ui/Waiting";

const KINDS: readonly (readonly [LineKind, string])[] = [
  ["visit", "visits"],
  ["edit", "edits"],
  ["test", "tests"],
  ["measurement", "readings"],
  ["handover", "handovers"],
  ["call", "calls"],
  ["note", "notes"],
];

const SINCE: readonly (readonly [string, string])[] = [
  ["", "any time"],
  ["1", "the last day"],
  ["7", "the last week"],
  ["31", "the last month"],
];

/** Everything that happened to the house, the newest first. */
export function LogbookView() {
  const { house, room } = useRoom();
  const id = house.house.id;
  const [here, setHere] = useState(false);
  const [device, setDevice] = useState("");
  const [kind, setKind] = useState<LineKind | "">("");
  const [days, setDays] = useState("");
  const [since, setSince] = useState("");
  const [then, setThen] = useState<number>();
  const query = {
    ...(here ? { room } : {}),
    ...(device ? { device } : {}),
    ...(kind ? { kind } : {}),
    ...(since ? { since } : {}),
  };
  const log = useQuery({
    queryKey: ["house", id, "logbook", query, house.revision],
    queryFn: () =>
      data(client.GET("/api/houses/{house}/logbook", { params: { path: { house: id }, query } })),
    placeholderData: (before) => before,
  });
  const file = (format: string) =>
    `/api/houses/${id}/logbook/${format}?${new URLSearchParams(query as Record<string, string>)}`;
  return (
    <div className="mt-3">
      <Write />
      <div className="my-3 flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={here} onChange={(event) => setHere(event.target.checked)} />
          only this room
        </label>
        <select
          className="field w-48"
          aria-label="About which device"
          value={device}
          onChange={(event) => setDevice(event.target.value)}
        >
          <option value="">every device</option>
          {house.devices.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
        <select
          className="field w-36"
          aria-label="Kind of line"
          value={kind}
          onChange={(event) => setKind(event.target.value as LineKind | "")}
        >
          <option value="">everything</option>
          {KINDS.map(([one, label]) => (
            <option key={one} value={one}>
              {label}
            </option>
          ))}
        </select>
        <select
          className="field w-36"
          aria-label="Since when"
          value={days}
          onChange={(event) => {
            const chosen = event.target.value;
            setDays(chosen);
            setSince(chosen && new Date(Date.now() - Number(chosen) * 86_400_000).toISOString());
          }}
        >
          {SINCE.map(([one, label]) => (
            <option key={one} value={one}>
              {label}
            </option>
          ))}
        </select>
        <span className="ml-auto flex gap-2">
          <a className="btn" href={file("csv")} download="logbook.csv">
            Save as CSV
          </a>
          <a className="btn" href={file("md")} download="logbook.md">
            Save as Markdown
          </a>
        </span>
      </div>
      {!log.data && <Waiting what="the logbook" error={log.error} />}
      {log.data?.length === 0 && <p className="text-muted">No line of this kind.</p>}
      <ul aria-label="Lines of the logbook">
        {log.data?.map((line, at) => (
          <Line
            key={line.revision ?? `${line.at} ${at}`}
            line={line}
            open={then !== undefined && then === line.revision}
            onThen={() => setThen(then === line.revision ? undefined : (line.revision ?? undefined))}
          />
        ))}
      </ul>
    </div>
  );
}

function Line({ line, open, onThen }: { line: LogbookLine; open: boolean; onThen: () => void }) {
  const { house } = useRoom();
  const rooms = line.rooms
    .map((id) => house.rooms.find((known) => known.id === id)?.name)
    .filter(Boolean)
    .join(", ");
  return (
    <li className="border-b border-rule py-1">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <span className="w-40 text-[13px] text-muted">{dayTime(line.at)}</span>
        <span className="w-24 text-muted">{line.kind === "measurement" ? "reading" : line.kind}</span>
        <span className="min-w-0 flex-1 basis-72 wrap-break-word whitespace-pre-line">
          {localClocks(line.text.split("\ncause: ")[0] ?? "")}
          {line.undone && <span className="ml-2 text-muted">(undone)</span>}
          {line.minutes != null && <span className="ml-2 text-muted">{line.minutes} min</span>}
        </span>
        <span className="text-muted">
          {[rooms, line.devices.map((one) => deviceName(house, one)).join(", "), line.who]
            .filter(Boolean)
            .join(" · ")}
        </span>
        {line.revision != null && (
          <button type="button" className="link" aria-expanded={open} onClick={onThen}>
            As it was
          </button>
        )}
      </div>
      {line.photo && (
        <img
          src={`/api/houses/${house.house.id}/photos/${line.photo}`}
          alt={line.text}
          className="mt-1 max-h-48 border border-rule"
        />
      )}
      {open && line.revision != null && <Then revision={line.revision} />}
    </li>
  );
}

/** One thing alone. */
type Only = NonNullable<RestoreRequest["only"]>;

/** The house as it was after a line: what is another thing today, and the way back. */
function Then({ revision }: { revision: number }) {
  const { house, say } = useRoom();
  const id = house.house.id;
  const queries = useQueryClient();
  const [sure, setSure] = useState(false);
  const found = useQuery({
    queryKey: ["house", id, "as-it-was", revision, house.revision],
    queryFn: () =>
      data(
        client.GET("/api/houses/{house}/as-it-was/{revision}", { params: { path: { house: id, revision } } }),
      ),
  });
  const back = useMutation({
    mutationFn: (only: Only | null) =>
      surely((headers) =>
        data(
          client.POST("/api/houses/{house}/as-it-was", {
            params: { path: { house: id } },
            body: { revision, only },
            headers,
          }),
        ),
      ),
    onSuccess: (saved) => {
      takeOver(queries, saved.changed);
      say(`Put back as it was after line ${revision}: ${saved.title}`);
    },
  });
  if (!found.data) return <Waiting what="the house as it was" error={found.error} />;
  return (
    <div className="my-1 border-l-2 border-rule pl-3">
      {found.data.length === 0 ? (
        <p className="text-muted">Today it is as it was then.</p>
      ) : (
        <>
          <p className="text-muted">What has changed since then:</p>
          <ul className="list-disc pl-5">
            {found.data.map((one, at) => (
              <li key={at} className="wrap-break-word">
                {one.text}
                {one.id && (
                  <button
                    type="button"
                    className="link ml-2"
                    aria-label={`Put back: ${one.text}`}
                    disabled={back.isPending}
                    onClick={() => back.mutate({ kind: one.kind, id: one.id ?? "" })}
                  >
                    Put back
                  </button>
                )}
              </li>
            ))}
          </ul>
          <p className="mt-1 flex flex-wrap items-center gap-2">
            {sure ? (
              <>
                <span>Readings and tests stay. Undo takes it back.</span>
                <button
                  type="button"
                  className="btn btn-main"
                  disabled={back.isPending}
                  onClick={() => back.mutate(null)}
                >
                  Put the house back
                </button>
                <button type="button" className="btn" onClick={() => setSure(false)}>
                  Leave it
                </button>
              </>
            ) : (
              <button type="button" className="btn" onClick={() => setSure(true)}>
                Put the house back as it was …
              </button>
            )}
          </p>
        </>
      )}
      {back.error && <ProblemNote text={back.error.message} />}
    </div>
  );
}

/** A visit or a note. */
function Write() {
  const { house, room } = useRoom();
  const id = house.house.id;
  const queries = useQueryClient();
  const [kind, setKind] = useState<"visit" | "note">("visit");
  const [text, setText] = useState("");
  const [minutes, setMinutes] = useState("");
  const write = useMutation({
    mutationFn: () =>
      data(
        client.POST("/api/houses/{house}/logbook", {
          params: { path: { house: id } },
          body: { kind, room, text: text.trim(), minutes: minutes ? Number(minutes) : null },
        }),
      ),
    onSuccess: () => {
      setText("");
      setMinutes("");
      void queries.invalidateQueries({ queryKey: ["house", id, "logbook"] });
    },
  });
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim()) write.mutate();
      }}
    >
      <select
        className="field w-28"
        aria-label="What is written down"
        value={kind}
        onChange={(event) => setKind(event.target.value as "visit" | "note")}
      >
        <option value="visit">Visit</option>
        <option value="note">Note</option>
      </select>
      <input
        className="field min-w-64 flex-1"
        aria-label="What happened"
        placeholder={kind === "visit" ? "Who was here, and what for" : "What is worth keeping"}
        maxLength={4000}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <input
        className="field w-24"
        aria-label="Minutes"
        placeholder="minutes"
        inputMode="numeric"
        maxLength={4}
        value={minutes}
        onChange={(event) => setMinutes(event.target.value.replace(/\D/g, ""))}
      />
      <button type="submit" className="btn" disabled={!text.trim() || write.isPending}>
        Write it down
      </button>
      {write.error && <ProblemNote text={write.error.message} />}
    </form>
  );
}
