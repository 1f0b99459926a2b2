import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Upload } from "lucide-react";
import { useDeferredValue, useState } from "react";
import { client, data, RequestError } from "../../api/client";
import { put, useEdit } from "../../api/queries";
import type { Capture, Code, CodeLine, Device, DeviceFunction, Medium, ReadText } from "../../api/types";
import { modelOf, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { FileButton } from "../../ui/FileButton";
import { ProblemNote } from "../../ui/Problem";
import { NameInput } from "./NameInput";
import { readText } from "./readText";
import { ReadingView } from "./ReadingView";
import { carrierOf } from "./protocols";
import { useSettled } from "./useSettled";
import { forget, useTyped } from "../../ui/draft";

/** The most that the server reads, in bytes. */
const MAX_BYTES = 1_000_000;

/** No capture yet: one list, so that it is the same each time. */
const NONE: Capture[] = [];

/** Paste or upload a capture, see what it says, name it, save it. */
export function CaptureForm({
  device,
  fn,
  lines,
  onSaved,
  onCancel,
}: {
  device: Device;
  fn: DeviceFunction;
  lines: CodeLine[];
  onSaved: () => void;
  onCancel: () => void;
}) {
  const { house, say } = useRoom();
  const edit = useEdit(house.house.id);
  const draft = `capture:${device.id} ${fn.id}`;
  const [text, setText] = useTyped(`${draft}:text`, "");
  const [name, setName] = useTyped(`${draft}:name`, fn.name);
  const [fileTrouble, setFileTrouble] = useState<string>();
  const [signal, setSignal] = useState<string>();
  const [more, setMore] = useTyped<Capture[]>(`${draft}:more`, NONE);
  const [radioChoice, setRadioChoice] = useState(0);
  const { reading, read, captures, together, settled } = useReading(house.house.id, text, more, signal);
  const shown = together?.reading ?? read?.reading;
  const best = shown?.best;
  const radio = together ? undefined : (read?.radio ?? undefined);
  const radioCode = radio?.candidates[radioChoice] ?? radio?.candidates[0];
  const medium: Medium = radioCode && !best ? "rf433" : "ir";
  const line = lines.find((known) => known.medium === medium);
  const retype = (next: string) => {
    setFileTrouble(undefined);
    setSignal(undefined);
    setText(next);
  };
  const addAnother = (capture: Capture) => {
    setMore([...more, capture]);
    setText("");
  };
  const load = async (chosen: File) => {
    setFileTrouble(undefined);
    const read = await readText(chosen, {
      bytes: MAX_BYTES,
      tooLarge: `has ${Math.ceil(chosen.size / 1000)} kB; at most 1 MB can be read. Keep one key press.`,
      notText: "Export the capture as pulse/space text, CSV or VCD.",
    });
    if ("text" in read) setText(read.text);
    else setFileTrouble(read.trouble);
  };
  const save = () => {
    const kept = together?.capture ?? read?.capture;
    if (!kept) return;
    const profile = modelOf(house, device);
    const value = codeOf(line?.id, device, fn, kept, best, radio, radioCode);
    const functions = profile.functions.map((known) => (known.id === fn.id ? { ...known, name } : known));
    const rename =
      name.trim() === fn.name
        ? []
        : [put({ entity: "profile", value: { ...profile, functions } }, house.versions[profile.id])];
    edit.mutate([...rename, put({ entity: "code", value }, line ? house.versions[line.id] : undefined)], {
      onSuccess: (saved) => {
        setText("");
        setMore(NONE);
        forget(draft);
        say(saved.title);
        onSaved();
      },
    });
  };
  const { choices, trouble } = troubleOf(settled, reading, fileTrouble);
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
        <CaptureText
          text={text}
          trouble={trouble !== undefined}
          onText={retype}
          name={name}
          setName={setName}
          load={load}
        />
      </div>
      <div className="mt-2 flex flex-col gap-2">
        {trouble && <ProblemNote text={trouble} />}
        {choices.length > 0 && <WhichSignal choices={choices} signal={signal} setSignal={setSignal} />}
        {edit.error && <ProblemNote text={edit.error.message} />}
        <div className="flex flex-wrap items-center gap-2">
          <button
            type="submit"
            className="btn btn-main"
            disabled={captures.length === 0 || edit.isPending || trouble !== undefined}
          >
            {captures.length > 0 && !best && !radioCode ? "Keep as raw timing" : "Save code"}
          </button>
          <AddAnother read={read} onAdd={addAnother} />
          <WhichRadio radio={radio} choice={radioChoice} setChoice={setRadioChoice} />
          <button type="button" className="btn" onClick={onCancel}>
            Cancel
          </button>
          {read?.remarks.map((remark) => (
            <span key={remark} className="text-[13px] text-muted">
              {remark}
            </span>
          ))}
        </div>
        <Together count={captures.length} together={together} onForget={() => setMore(NONE)} />
        {shown && !trouble && <ReadingView reading={shown} radio={radio} />}
      </div>
    </form>
  );
}

/** What a pasted text says, by itself and together with the captures before it. */
function useReading(house: string, text: string, more: Capture[], signal: string | undefined) {
  const settled = useDeferredValue(useSettled(text, 150));
  const reading = useQuery({
    queryKey: ["reading", house, settled, signal],
    queryFn: () =>
      data(
        client.POST("/api/readings", {
          params: { query: { house, ...(signal && { signal }) } },
          body: settled,
          bodySerializer: (body) => body,
          headers: { "content-type": "text/plain; charset=utf-8" },
        }),
      ),
    enabled: settled.trim() !== "",
    placeholderData: keepPreviousData,
  });
  const read: ReadText | undefined = settled.trim() && !reading.error ? reading.data : undefined;
  const captures = read ? [...more, read.capture] : more;
  const combined = useQuery({
    queryKey: ["combined", house, JSON.stringify(captures)],
    queryFn: () =>
      data(client.POST("/api/readings/combined", { params: { query: { house } }, body: { captures } })),
    enabled: more.length > 0,
    placeholderData: keepPreviousData,
  });
  const together = more.length > 0 ? combined.data : undefined;
  return { reading, read, captures, together, settled };
}

/** Where a capture is pasted or chosen, and its function named. */
function CaptureText({
  text,
  trouble,
  onText,
  name,
  setName,
  load,
}: {
  text: string;
  trouble: boolean;
  onText: (text: string) => void;
  name: string;
  setName: (name: string) => void;
  load: (chosen: File) => Promise<void>;
}) {
  return (
    <>
      <label>
        <span className="label">
          Capture: “pulse 9024” and “space 4512” line by line, “+9024 -4512 …” in µs, a CSV of durations or a
          VCD
        </span>
        <textarea
          className="field h-20 py-1.5 font-mono text-[13px] leading-snug"
          spellCheck={false}
          autoFocus
          value={text}
          aria-invalid={trouble}
          placeholder="+9024 -4512 +560 -560 +560 -1690 …"
          onChange={(event) => onText(event.target.value)}
        />
      </label>
      <div className="flex flex-col gap-2">
        <label>
          <span className="label">Name of the function</span>
          <NameInput value={name} onChange={setName} />
        </label>
        <FileButton
          label="Capture file"
          accept=".txt,.pulse,.csv,.vcd,text/plain"
          onFile={(chosen) => void load(chosen)}
        >
          <Upload aria-hidden size={15} /> Choose a file
        </FileButton>
      </div>
    </>
  );
}

/** A file with several signals: the one that carries the remote is asked for. */
function WhichSignal({
  choices,
  signal,
  setSignal,
}: {
  choices: string[];
  signal: string | undefined;
  setSignal: (signal: string) => void;
}) {
  return (
    <div className="flex flex-wrap items-center gap-2 border-l-4 border-caution bg-soft px-3 py-2">
      <span>This file holds several signals. Which one carries the remote?</span>
      <Choice
        label="Signal of the file"
        placeholder="Choose a signal"
        className="w-52"
        value={signal ?? ""}
        onChange={setSignal}
        options={choices.map((known) => ({ value: known, label: known }))}
      />
    </div>
  );
}

/** Several captures of one key make one better reading. */
function AddAnother({ read, onAdd }: { read: ReadText | undefined; onAdd: (capture: Capture) => void }) {
  return (
    <>
      {read && (
        <button
          type="button"
          className="btn"
          title="Several captures of one key make one better reading"
          onClick={() => onAdd(read.capture)}
        >
          Add another capture of this key
        </button>
      )}
    </>
  );
}

/** How far several captures agree. */
function Together({
  count,
  together,
  onForget,
}: {
  count: number;
  together: ReturnType<typeof useReading>["together"];
  onForget: () => void;
}) {
  return (
    <>
      {together && (
        <p className="text-[13px]">
          {count} captures together, {together.agree} agree. {together.remarks.join(" ")}{" "}
          <button type="button" className="link text-[13px]" onClick={onForget}>
            Forget the earlier ones
          </button>
        </p>
      )}
    </>
  );
}

type Best = ReadText["reading"]["best"];
type Radio = NonNullable<ReadText["radio"]> | undefined;

/** The code that is kept: decoded where it was read, else as the radio code, else as raw timing. */
function codeOf(
  id: string | undefined,
  device: Device,
  fn: DeviceFunction,
  kept: Capture,
  best: Best,
  radio: Radio,
  radioCode: NonNullable<Radio>["candidates"][number] | undefined,
) {
  const value: Code = {
    id: id ?? crypto.randomUUID(),
    device: device.id,
    function: fn.id,
    body: best
      ? {
          as: "decoded",
          message: { protocol: best.protocol, fields: best.fields },
          ...carrierOf(kept.carrier_hz, best.carrier_hz),
          ...(best.whole_repeats && { whole_repeats: true }),
        }
      : radio && radioCode
        ? { as: "radio", code: radioCode, unit_us: Math.round(radio.unit_us) }
        : { as: "raw", capture: kept },
    captured: best || radioCode ? kept : null,
    since: new Date().toISOString(),
  };
  return value;
}

/** What is wrong with the text, or which signal has to be chosen. */
function troubleOf(
  settled: string,
  reading: ReturnType<typeof useReading>["reading"],
  fileTrouble: string | undefined,
) {
  const problem = settled.trim() && reading.error instanceof RequestError ? reading.error.problem : undefined;
  const choices = problem?.kind === "choose-signal" ? (problem.choices ?? []) : [];
  const trouble = fileTrouble ?? (choices.length > 0 ? undefined : problem?.detail);
  return { choices, trouble };
}

/** A radio key that can be read in several ways: which one it is. */
function WhichRadio({
  radio,
  choice,
  setChoice,
}: {
  radio: Radio;
  choice: number;
  setChoice: (choice: number) => void;
}) {
  return (
    <>
      {radio && radio.candidates.length > 1 && (
        <Choice
          label="Which reading"
          className="w-44"
          value={String(choice)}
          onChange={(value) => setChoice(Number(value))}
          options={radio.candidates.map((known, at) => ({ value: String(at), label: known.code }))}
        />
      )}
    </>
  );
}
