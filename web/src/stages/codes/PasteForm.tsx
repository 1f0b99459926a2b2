import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Upload } from "lucide-react";
import { useDeferredValue, useEffect, useRef, useState } from "react";
import { client, data, RequestError } from "../../api/client";
import { put, useEdit } from "../../api/queries";
import type { Code, CodeLine, Device, DeviceFunction, ReadText } from "../../api/types";
import { profileOf, useRoom } from "../../shell/context";
import { ProblemNote } from "../../ui/Problem";
import { useDraft } from "./draft";
import { ReadingView } from "./ReadingView";

/** The most that the server reads, in bytes. */
const MAX_BYTES = 1_000_000;

/** A value a little later, so that a text is read once and not at every key. */
function useSettled<T>(value: T, ms: number): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return settled;
}

/** Paste or upload a capture, see what it says, name it, save it. */
export function PasteForm({
  device,
  fn,
  line,
  onSaved,
  onCancel,
}: {
  device: Device;
  fn: DeviceFunction;
  line: CodeLine | undefined;
  onSaved: () => void;
  onCancel: () => void;
}) {
  const { house, say } = useRoom();
  const edit = useEdit(house.house.id);
  const [text, setText] = useDraft(`${device.id} ${fn.id}`);
  const [name, setName] = useState(fn.name);
  const [fileTrouble, setFileTrouble] = useState<string>();
  const file = useRef<HTMLInputElement>(null);
  const settled = useDeferredValue(useSettled(text, 150));
  const reading = useQuery({
    queryKey: ["reading", settled],
    queryFn: () =>
      data(
        client.POST("/api/readings", {
          body: settled,
          bodySerializer: (body) => body,
          headers: { "content-type": "text/plain; charset=utf-8" },
        }),
      ),
    enabled: settled.trim() !== "",
    placeholderData: keepPreviousData,
  });
  const read: ReadText | undefined = settled.trim() && !reading.error ? reading.data : undefined;
  const best = read?.reading.best;
  const radio = read?.radio ?? undefined;
  const radioCode = radio?.candidates[0];

  const load = async (chosen: File) => {
    setFileTrouble(undefined);
    if (chosen.size > MAX_BYTES) {
      setFileTrouble(
        `${chosen.name} has ${Math.ceil(chosen.size / 1000)} kB; at most 1 MB can be read. Keep one key press.`,
      );
      return;
    }
    try {
      setText(new TextDecoder("utf-8", { fatal: true }).decode(await chosen.arrayBuffer()));
    } catch {
      setFileTrouble(`${chosen.name} is not text. Export the capture as pulse/space text or signed text.`);
    }
  };
  const save = () => {
    if (!read) return;
    const profile = profileOf(house, device);
    const value: Code = {
      id: line?.id ?? crypto.randomUUID(),
      device: device.id,
      function: fn.id,
      body: best
        ? { as: "decoded", message: { protocol: best.protocol, fields: best.fields } }
        : radio && radioCode
          ? { as: "radio", code: radioCode, unit_us: Math.round(radio.unit_us) }
          : { as: "raw", capture: read.capture },
      captured: best || radioCode ? read.capture : null,
    };
    const functions = profile.functions.map((known) => (known.id === fn.id ? { ...known, name } : known));
    const rename =
      name.trim() === fn.name
        ? []
        : [put({ entity: "profile", value: { ...profile, functions } }, house.versions[profile.id])];
    edit.mutate([...rename, put({ entity: "code", value }, line ? house.versions[line.id] : undefined)], {
      onSuccess: (saved) => {
        setText("");
        say(saved.title);
        onSaved();
      },
    });
  };
  const trouble =
    fileTrouble ??
    (settled.trim() && reading.error instanceof RequestError ? reading.error.message : undefined);
  return (
    <form
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        const dropped = event.dataTransfer.files[0];
        if (dropped) void load(dropped);
      }}
    >
      <div className="grid grid-cols-[minmax(0,1fr)_220px] gap-4">
        <label>
          <span className="label">
            Capture: “pulse 9024” and “space 4512” line by line, or “+9024 -4512 …” in µs
          </span>
          <textarea
            className="field h-20 py-1.5 font-mono text-[13px] leading-snug"
            spellCheck={false}
            autoFocus
            value={text}
            aria-invalid={trouble !== undefined}
            placeholder="+9024 -4512 +560 -560 +560 -1690 …"
            onChange={(event) => {
              setFileTrouble(undefined);
              setText(event.target.value);
            }}
          />
        </label>
        <div className="flex flex-col gap-2">
          <label>
            <span className="label">Name of the function</span>
            <input className="field" value={name} onChange={(event) => setName(event.target.value)} />
          </label>
          <input
            ref={file}
            type="file"
            className="sr-only"
            tabIndex={-1}
            aria-label="Capture file"
            accept=".txt,.pulse,.csv,text/plain"
            onChange={(event) => {
              const chosen = event.target.files?.[0];
              if (chosen) void load(chosen);
              event.target.value = "";
            }}
          />
          <button type="button" className="btn" onClick={() => file.current?.click()}>
            <Upload aria-hidden size={15} /> Choose a file
          </button>
        </div>
      </div>
      <div className="mt-2 flex flex-col gap-2">
        {trouble && <ProblemNote text={trouble} />}
        {edit.error && <ProblemNote text={edit.error.message} />}
        <div className="flex flex-wrap items-center gap-2">
          <button
            type="submit"
            className="btn btn-main"
            disabled={!read || edit.isPending || trouble !== undefined}
          >
            {read && !best && !radioCode ? "Keep as raw timing" : "Save code"}
          </button>
          <button type="button" className="btn" onClick={onCancel}>
            Cancel
          </button>
          {read?.remarks.map((remark) => (
            <span key={remark} className="text-[13px] text-muted">
              {remark}
            </span>
          ))}
        </div>
        {read && !trouble && <ReadingView reading={read.reading} radio={radio} />}
      </div>
    </form>
  );
}
