import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Upload } from "lucide-react";
import { useState } from "react";
import { client, data, surely } from "../../api/client";
import { takeOver, useHouses } from "../../api/queries";
import type { CodeSource, Device, LineFate, ImportView } from "../../api/types";
import { deviceName, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { FileButton } from "../../ui/FileButton";
import { ProblemNote } from "../../ui/Problem";
import { Sheet } from "../../ui/Sheet";
import { readText } from "./readText";
import { forget, useTyped } from "../../ui/draft";
import { cancelled, useCancel } from "../../api/cancel";
import { Busy } from "../../ui/Busy";

const FATE: Record<LineFate, string> = {
  "new-function": "a new function",
  "new-code": "gets its code",
  replaces: "replaces a code",
  same: "is there already",
  "no-device": "belongs to no device here",
};

const NAMED = "named";

/** Where codes come from. */
type Origin = "file" | "device";

/** Codes from a file or another device: previewed code by code, taken over as one step. */
export function ImportSheet({
  devices,
  first,
  onClose,
}: {
  devices: Device[];
  first: string | undefined;
  onClose: () => void;
}) {
  const { house } = useRoom();
  const queries = useQueryClient();
  const [from, setFrom] = useState<Origin>("file");
  const [text, setText] = useTyped(`import:${house.house.id}:text`, "");
  const [name, setName] = useTyped(`import:${house.house.id}:name`, "");
  const [goal, setGoal] = useState<string>();
  const [otherHouse, setOtherHouse] = useState(house.house.id);
  const [other, setOther] = useState("");
  const [chosen, setChosen] = useState<Set<number>>();
  const [fileTrouble, setFileTrouble] = useState<string>();
  const elsewhere = useQuery({
    queryKey: ["house", otherHouse],
    queryFn: () => data(client.GET("/api/houses/{house}", { params: { path: { house: otherHouse } } })),
    enabled: from === "device",
  });
  const source: CodeSource =
    from === "file" ? { from: "file", text } : { from: "device", house: otherHouse, device: other };
  const ready = from === "file" ? text.trim() !== "" : other !== "";
  const { target, look, lines, taken } = usePreview(from, source, ready, goal, first, chosen);
  const { take, cancel } = useTake(source, target, taken, onClose);
  const retarget = (to: string) => {
    setGoal(to);
    setChosen(undefined);
  };
  const retype = (next: string) => {
    setText(next);
    setChosen(undefined);
  };
  const chooseOther = (id: string) => {
    setOther(id);
    setChosen(undefined);
  };
  const load = async (picked: File) => {
    setFileTrouble(undefined);
    const read = await readText(picked, {
      bytes: 4_000_000,
      tooLarge: "has more than 4 MB. Split it by device.",
      notText: "Export the codes as a keymap or as CSV.",
    });
    if ("trouble" in read) return setFileTrouble(read.trouble);
    retype(read.text);
    setName(picked.name.replace(/\.[a-z]+$/i, ""));
  };
  const trouble = fileTrouble ?? (ready ? look.error?.message : undefined) ?? take.error?.message;
  return (
    <Sheet open onClose={onClose} title="Import or copy codes" wide>
      <div className="grid gap-3">
        <FromTo from={from} setFrom={setFrom} target={target} onTarget={retarget} devices={devices} />
        {from === "file" ? (
          <FromFile text={text} onText={retype} load={load} />
        ) : (
          <FromDevice
            otherHouse={otherHouse}
            setOtherHouse={setOtherHouse}
            other={other}
            onOther={chooseOther}
            there={(elsewhere.data?.devices ?? []).filter((device) => device.id !== target)}
          />
        )}
        {look.isFetching && (
          <Busy
            what="Reading the codes …"
            onCancel={() => void queries.cancelQueries({ queryKey: ["import"] })}
          />
        )}
        {take.isPending && <Busy what="Importing the codes …" onCancel={cancel} />}
        {trouble && <ProblemNote text={trouble} />}
        {look.data && ready && (
          <Preview
            view={look.data}
            taken={taken}
            onTake={(at, on) => {
              const next = new Set(taken);
              if (on) next.add(at);
              else next.delete(at);
              setChosen(next);
            }}
          />
        )}
        <TakeOver
          count={taken.size}
          possible={look.data !== undefined && !take.isPending}
          savable={lines.length > 0 && !take.isPending}
          name={name}
          setName={setName}
          take={take.mutate}
        />
      </div>
    </Sheet>
  );
}

/** What would happen, code by code, and what could not be read, line by line. */
function Preview({
  view,
  taken,
  onTake,
}: {
  view: ImportView;
  taken: Set<number>;
  onTake: (at: number, on: boolean) => void;
}) {
  const { house } = useRoom();
  return (
    <div className="max-h-[38vh] overflow-auto" tabIndex={0} role="region" aria-label="Preview of the import">
      <div className="scrolls">
        <table className="w-full" aria-label="What would be imported">
          <thead>
            <tr className="border-b border-ink text-[13px] text-muted">
              <th scope="col" className="py-1">
                Take
              </th>
              <th scope="col" className="px-2 text-right">
                Line
              </th>
              <th scope="col" className="px-2">
                Function
              </th>
              <th scope="col" className="px-2">
                Code
              </th>
              <th scope="col" className="px-2">
                What happens
              </th>
            </tr>
          </thead>
          <tbody>
            {view.lines.map((line, at) => (
              <tr key={at} className="border-b border-rule">
                <td>
                  <input
                    type="checkbox"
                    className="size-6"
                    aria-label={`Take ${line.name}`}
                    checked={taken.has(at)}
                    disabled={line.fate === "same" || line.fate === "no-device"}
                    onChange={(event) => onTake(at, event.target.checked)}
                  />
                </td>
                <td className="px-2 text-right font-mono text-[13px]">{line.line}</td>
                <td className="px-2">
                  {line.device && line.named ? `${deviceName(house, line.device)} · ` : ""}
                  {line.name}
                </td>
                <td className="px-2 font-mono text-[13px]">{line.summary}</td>
                <td
                  className={`px-2 ${line.fate === "replaces" ? "text-caution" : line.fate === "same" ? "text-muted" : ""}`}
                >
                  {FATE[line.fate]}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {view.remarks.length > 0 && (
        <ul
          aria-label="Names that stand more than once"
          className="mt-2 border-l-4 border-accent bg-soft px-3 py-1.5 text-[13px]"
        >
          {view.remarks.map((remark) => (
            <li key={remark}>{remark}</li>
          ))}
        </ul>
      )}
      {view.unread.length > 0 && (
        <div className="mt-2 border-l-4 border-caution bg-soft px-3 py-1.5">
          <p className="font-semibold">
            {view.unread.length === 1 ? "One line" : `${view.unread.length} lines`} could not be read; the
            rest is kept.
          </p>
          <ul className="text-[13px]">
            {view.unread.map((line) => (
              <li key={`${line.line} ${line.why}`}>
                Line {line.line}: {line.why}
              </li>
            ))}
          </ul>
        </div>
      )}
    </div>
  );
}

/** Where codes come from, and which device they go to. */
function FromTo({
  from,
  setFrom,
  target,
  onTarget,
  devices,
}: {
  from: Origin;
  setFrom: (from: Origin) => void;
  target: string;
  onTarget: (target: string) => void;
  devices: Device[];
}) {
  return (
    <div className="grid grid-cols-2 gap-3">
      <div>
        <span className="label">From</span>
        <Choice
          label="From"
          value={from}
          onChange={(value) => setFrom(value as Origin)}
          options={[
            { value: "file", label: "a file" },
            { value: "device", label: "another device" },
          ]}
        />
      </div>
      <div>
        <span className="label">To</span>
        <Choice
          label="To"
          value={target}
          onChange={onTarget}
          options={[
            { value: NAMED, label: "the devices that the file names" },
            ...devices.map((device) => ({ value: device.id, label: device.name })),
          ]}
        />
      </div>
    </div>
  );
}

/** The text of a file of codes, pasted or chosen. */
function FromFile({
  text,
  onText,
  load,
}: {
  text: string;
  onText: (text: string) => void;
  load: (picked: File) => Promise<void>;
}) {
  return (
    <div className="grid grid-cols-[1fr_auto] gap-2">
      <label>
        <span className="label">
          A remote keymap (TOML), a code set (CSV), captures under names, or one recording of a whole handset
          (a line “# Keys: Power, Up, Down” before it names its keys in order)
        </span>
        <textarea
          className="field h-20 py-1.5 font-mono text-[12.5px]"
          spellCheck={false}
          value={text}
          onChange={(event) => onText(event.target.value)}
        />
      </label>
      <div className="self-end">
        <FileButton
          label="File of codes"
          accept=".toml,.csv,.pulse,.txt,text/plain"
          onFile={(chosen) => void load(chosen)}
        >
          <Upload aria-hidden size={15} /> Choose a file
        </FileButton>
      </div>
    </div>
  );
}

/** A device of this or another house whose codes are copied. */
function FromDevice({
  otherHouse,
  setOtherHouse,
  other,
  onOther,
  there,
}: {
  otherHouse: string;
  setOtherHouse: (id: string) => void;
  other: string;
  onOther: (id: string) => void;
  there: Device[];
}) {
  const houses = useHouses();
  return (
    <div className="grid grid-cols-2 gap-3">
      <div>
        <span className="label">House</span>
        <Choice
          label="House"
          value={otherHouse}
          onChange={setOtherHouse}
          options={(houses.data ?? []).map((known) => ({ value: known.id, label: known.name }))}
        />
      </div>
      <div>
        <span className="label">Device</span>
        <Choice
          label="Device to copy from"
          value={other}
          onChange={onOther}
          options={there.map((device) => ({ value: device.id, label: device.name }))}
        />
      </div>
    </div>
  );
}

/** Takes the chosen codes over, or keeps them as a code set. */
function TakeOver({
  count,
  possible,
  savable,
  name,
  setName,
  take,
}: {
  count: number;
  possible: boolean;
  savable: boolean;
  name: string;
  setName: (name: string) => void;
  take: (asSet: string | null) => void;
}) {
  return (
    <div className="flex flex-wrap items-center gap-2">
      <button
        type="button"
        className="btn btn-main"
        disabled={!possible || count === 0}
        onClick={() => take(null)}
      >
        Take {count} over
      </button>
      <button
        type="button"
        className="btn"
        disabled={!savable || !name.trim()}
        onClick={() => take(name.trim())}
      >
        Keep as a code set
      </button>
      <label className="flex items-center gap-2">
        <span className="text-[13px] text-muted">called</span>
        <input className="field w-44" value={name} onChange={(event) => setName(event.target.value)} />
      </label>
      <span className="ml-auto text-[13px] text-muted">One step, which undo takes back whole.</span>
    </div>
  );
}

/** Carries an import out; what was typed for it is forgotten then. */
function useTake(source: CodeSource, target: string, taken: Set<number>, onDone: () => void) {
  const { house, say } = useRoom();
  const queries = useQueryClient();
  const { signal, cancel } = useCancel();
  const path = { house: house.house.id };
  const take = useMutation({
    mutationFn: (asSet: string | null) => {
      const ended = signal();
      return surely((headers) =>
        data(
          client.POST("/api/houses/{house}/imports", {
            signal: ended,
            params: { path },
            body: {
              source,
              device: target === NAMED ? null : target,
              chosen: [...taken].sort((a, b) => a - b),
              as_set: asSet,
            },
            headers,
          }),
        ),
      ).catch((error: unknown) => {
        throw ended.aborted ? cancelled("Cancelled. What was carried out already can be undone.") : error;
      });
    },
    onSuccess: (saved) => {
      takeOver(queries, saved.changed);
      forget(`import:${house.house.id}`);
      say(saved.title);
      onDone();
    },
  });
  return { take, cancel };
}

/** What an import would do: for the devices that the file names, unless another one is chosen. */
function usePreview(
  from: Origin,
  source: CodeSource,
  ready: boolean,
  goal: string | undefined,
  first: string | undefined,
  chosen: Set<number> | undefined,
) {
  const { house } = useRoom();
  const path = { house: house.house.id };
  const previewOf = (to: string) => {
    const body = { source, device: to === NAMED ? null : to, chosen: [], as_set: null };
    return {
      queryKey: ["import", JSON.stringify(body), house.revision],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        data(client.POST("/api/houses/{house}/imports/preview", { params: { path }, body, signal })),
      enabled: ready,
      retry: false,
    };
  };
  // A file that names its devices goes to them, unless another one is chosen here.
  const asNamed = useQuery(previewOf(NAMED));
  const names = from === "file" && (asNamed.data?.lines.some((line) => line.named) ?? false);
  const target = goal ?? (names ? NAMED : (first ?? NAMED));
  const look = useQuery({ ...previewOf(target), enabled: ready && !asNamed.isLoading });
  const lines = look.data?.lines ?? [];
  const useful = lines
    .map((line, at) => ({ line, at }))
    .filter(({ line }) => line.fate !== "same" && line.fate !== "no-device");
  const taken = chosen ?? new Set(useful.map(({ at }) => at));
  return { target, look, lines, taken };
}
