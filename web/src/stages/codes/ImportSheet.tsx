import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Upload } from "lucide-react";
import { useState } from "react";
import { client, data, surely } from "../../api/client";
import { takeOver, useHouses } from "../../api/queries";
import type { Device, LineFate, ImportView } from "../../api/types";
import { deviceName, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { FileButton } from "../../ui/FileButton";
import { ProblemNote } from "../../ui/Problem";
import { Sheet } from "../../ui/Sheet";

const FATE: Record<LineFate, string> = {
  "new-function": "a new function",
  "new-code": "gets its code",
  replaces: "replaces a code",
  same: "is there already",
  "no-device": "belongs to no device here",
};

const NAMED = "named";

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
  const { house, say } = useRoom();
  const queries = useQueryClient();
  const [from, setFrom] = useState<"file" | "device">("file");
  const [text, setText] = useState("");
  const [name, setName] = useState("");
  const [goal, setGoal] = useState<string>();
  const [otherHouse, setOtherHouse] = useState(house.house.id);
  const [other, setOther] = useState("");
  const [chosen, setChosen] = useState<Set<number>>();
  const [fileTrouble, setFileTrouble] = useState<string>();
  const houses = useHouses();
  const elsewhere = useQuery({
    queryKey: ["house", otherHouse],
    queryFn: () => data(client.GET("/api/houses/{house}", { params: { path: { house: otherHouse } } })),
    enabled: from === "device",
  });
  const path = { house: house.house.id };
  const source =
    from === "file"
      ? ({ from: "file", text } as const)
      : ({ from: "device", house: otherHouse, device: other } as const);
  const ready = from === "file" ? text.trim() !== "" : other !== "";
  const previewOf = (to: string) => {
    const body = { source, device: to === NAMED ? null : to, chosen: [], as_set: null };
    return {
      queryKey: ["import", JSON.stringify(body), house.revision],
      queryFn: () => data(client.POST("/api/houses/{house}/imports/preview", { params: { path }, body })),
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
  const take = useMutation({
    mutationFn: (asSet: string | null) =>
      surely((headers) =>
        data(
          client.POST("/api/houses/{house}/imports", {
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
      ),
    onSuccess: (saved) => {
      takeOver(queries, saved.changed);
      say(saved.title);
      onClose();
    },
  });
  const load = async (picked: File) => {
    setFileTrouble(undefined);
    if (picked.size > 4_000_000) {
      setFileTrouble(`${picked.name} has more than 4 MB. Split it by device.`);
      return;
    }
    try {
      setText(new TextDecoder("utf-8", { fatal: true }).decode(await picked.arrayBuffer()));
      setName(picked.name.replace(/\.[a-z]+$/i, ""));
      setChosen(undefined);
    } catch {
      setFileTrouble(`${picked.name} is not text. Export the codes as a keymap or as CSV.`);
    }
  };
  const trouble = fileTrouble ?? (ready ? look.error?.message : undefined) ?? take.error?.message;
  return (
    <Sheet open onClose={onClose} title="Import or copy codes" wide>
      <div className="grid gap-3">
        <div className="grid grid-cols-2 gap-3">
          <div>
            <span className="label">From</span>
            <Choice
              label="From"
              value={from}
              onChange={(value) => setFrom(value as "file" | "device")}
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
              onChange={(value) => {
                setGoal(value);
                setChosen(undefined);
              }}
              options={[
                { value: NAMED, label: "the devices that the file names" },
                ...devices.map((device) => ({ value: device.id, label: device.name })),
              ]}
            />
          </div>
        </div>
        {from === "file" ? (
          <div className="grid grid-cols-[1fr_auto] gap-2">
            <label>
              <span className="label">A remote keymap (TOML), a code set (CSV), or captures under names</span>
              <textarea
                className="field h-20 py-1.5 font-mono text-[12.5px]"
                spellCheck={false}
                value={text}
                onChange={(event) => {
                  setText(event.target.value);
                  setChosen(undefined);
                }}
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
        ) : (
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
                onChange={(value) => {
                  setOther(value);
                  setChosen(undefined);
                }}
                options={(elsewhere.data?.devices ?? [])
                  .filter((device) => device.id !== target)
                  .map((device) => ({ value: device.id, label: device.name }))}
              />
            </div>
          </div>
        )}
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
        <div className="flex flex-wrap items-center gap-2">
          <button
            type="button"
            className="btn btn-main"
            disabled={!look.data || taken.size === 0 || take.isPending}
            onClick={() => take.mutate(null)}
          >
            Take {taken.size} over
          </button>
          <button
            type="button"
            className="btn"
            disabled={lines.length === 0 || take.isPending || !name.trim()}
            onClick={() => take.mutate(name.trim())}
          >
            Keep as a code set
          </button>
          <label className="flex items-center gap-2">
            <span className="text-[13px] text-muted">called</span>
            <input className="field w-44" value={name} onChange={(event) => setName(event.target.value)} />
          </label>
          <span className="ml-auto text-[13px] text-muted">One step, which undo takes back whole.</span>
        </div>
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
