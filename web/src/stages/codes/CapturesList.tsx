import { Upload } from "lucide-react";
import { useState } from "react";
import { client, data } from "../../api/client";
import { deviceName, useRoom } from "../../shell/context";
import { FileButton } from "../../ui/FileButton";
import { ProblemNote } from "../../ui/Problem";
import { readText } from "./readText";

/** A capture of one key. */
export interface NamedCapture {
  name: string;
  text: string;
}

const MAX_BYTES = 1_000_000;

/** How many marks and spaces a text has, roughly: for the list only. */
const durations = (text: string) => text.match(/\d+/g)?.length ?? 0;

/** Captures of different keys of one remote: pasted, from files, or raw codes that are there. */
export function CapturesList({
  captures,
  onCaptures,
}: {
  captures: NamedCapture[];
  onCaptures: (captures: NamedCapture[]) => void;
}) {
  const { house, devices } = useRoom();
  const [text, setText] = useState("");
  const [trouble, setTrouble] = useState<string>();
  const raw = house.codes.filter(
    (code) =>
      code.medium === "ir" &&
      code.summary.startsWith("raw timing") &&
      devices.some((own) => own.id === code.device),
  );
  const owners = [...new Set(raw.map((code) => code.device))];
  const add = (more: NamedCapture[]) => onCaptures([...captures, ...more]);
  const load = async (file: File) => {
    setTrouble(undefined);
    const read = await readText(file, {
      bytes: MAX_BYTES,
      tooLarge: "has more than 1 MB. Keep one key press.",
      notText: "Export the capture as pulse/space text, CSV or VCD.",
    });
    if ("trouble" in read) setTrouble(read.trouble);
    else add([{ name: file.name, text: read.text }]);
  };
  const takeRaw = async (device: string) => {
    setTrouble(undefined);
    try {
      const own = raw.filter((code) => code.device === device);
      const read = await Promise.all(
        own.map((code) =>
          data(
            client.GET("/api/houses/{house}/codes/{code}", {
              params: { path: { house: house.house.id, code: code.id } },
            }),
          ),
        ),
      );
      const functions = house.profiles.flatMap((profile) => profile.functions);
      add(
        read.flatMap((one) => {
          const name = functions.find((known) => known.id === one.code.function)?.name ?? "a key";
          return one.text ? [{ name, text: one.text }] : [];
        }),
      );
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : "The captures could not be read.");
    }
  };
  return (
    <section aria-label="Captures" className="mt-2">
      <label className="block">
        <span className="label">A capture of one key</span>
        <textarea
          className="field h-16 w-full py-1.5 font-mono text-[13px] leading-snug"
          spellCheck={false}
          value={text}
          placeholder="+9024 -4512 +560 -560 +560 -1690 …"
          onChange={(event) => setText(event.target.value)}
        />
      </label>
      <p className="mt-1 flex flex-wrap items-center gap-2">
        <button
          type="button"
          className="btn"
          disabled={text.trim() === ""}
          onClick={() => {
            add([{ name: `Key ${captures.length + 1}`, text }]);
            setText("");
          }}
        >
          Add this capture
        </button>
        <FileButton
          label="Capture file"
          accept=".txt,.pulse,.csv,.vcd,text/plain"
          onFile={(chosen) => void load(chosen)}
        >
          <Upload aria-hidden size={15} /> Add a file
        </FileButton>
        {owners.map((device) => (
          <button key={device} type="button" className="btn" onClick={() => void takeRaw(device)}>
            Add the raw codes of {deviceName(house, device)}
          </button>
        ))}
      </p>
      {trouble && <ProblemNote text={trouble} />}
      {captures.length > 0 && (
        <ol className="mt-1" aria-label="Captures to compare">
          {captures.map((own, at) => (
            <li key={at} className="flex items-baseline gap-3 border-b border-rule py-0.5">
              <span className="min-w-0 flex-1">
                {at + 1}. {own.name}
                <span className="text-muted">, {durations(own.text)} durations</span>
              </span>
              <button
                type="button"
                className="link"
                aria-label={`Remove capture ${at + 1}`}
                onClick={() => onCaptures(captures.filter((_, one) => one !== at))}
              >
                Remove
              </button>
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}
