import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, data } from "../../api/client";
import type { CodeLine, Device, DeviceFunction } from "../../api/types";
import { Choice } from "../../ui/Choice";
import { ProblemNote } from "../../ui/Problem";
import { PayloadView } from "./SentView";
import { useSaveCode } from "./useSaveCode";
import { forget, useTyped } from "../../ui/draft";

/** An opaque payload: pasted as hex or base64, kept with how long a send lasts. */
export function OpaqueForm({
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
  const [text, setText] = useTyped(`opaque:${device.id} ${fn.id}:text`, "");
  const [medium, setMedium] = useState<"ir" | "rf433">("ir");
  const [ms, setMs] = useTyped(`opaque:${device.id} ${fn.id}:ms`, "");
  const [presses, setPresses] = useTyped(`opaque:${device.id} ${fn.id}:presses`, "1");
  const { save, error, pending } = useSaveCode(device, fn, lines);
  const read = useQuery({
    queryKey: ["payload", text],
    queryFn: () => data(client.POST("/api/payloads", { body: { text } })),
    enabled: text.trim() !== "",
    retry: false,
    placeholderData: keepPreviousData,
  });
  const payload = text.trim() && !read.error ? read.data : undefined;
  const time = ms.trim() === "" ? undefined : Number(ms);
  const timeWrong = time !== undefined && !(Number.isInteger(time) && time >= 1 && time <= 60_000);
  return (
    <form
      noValidate
      className="grid gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (!payload || timeWrong) return;
        save(
          {
            as: "opaque",
            payload: payload.hex,
            medium,
            send_ms: time ?? null,
            presses: Number(presses) || 1,
          },
          null,
          () => {
            setText("");
            forget(`opaque:${device.id} ${fn.id}`);
            onSaved();
          },
        );
      }}
    >
      <div className="grid grid-cols-[minmax(0,1fr)_220px] gap-4">
        <label>
          <span className="label">Payload as hex or base64; blanks and capitals do not matter</span>
          <textarea
            className="field h-20 py-1.5 font-mono text-[13px] leading-snug"
            spellCheck={false}
            autoFocus
            value={text}
            aria-invalid={Boolean(text.trim() && read.error)}
            placeholder="26 00 0A 00 …  or  JgAKAA…"
            onChange={(event) => setText(event.target.value)}
          />
        </label>
        <div className="grid gap-2">
          <div>
            <span className="label">Sent by</span>
            <Choice
              label="Sent by"
              value={medium}
              onChange={(value) => setMedium(value as "ir" | "rf433")}
              options={[
                { value: "ir", label: "Infrared" },
                { value: "rf433", label: "Radio 433 MHz" },
              ]}
            />
          </div>
          <div className="grid grid-cols-2 gap-2">
            <label>
              <span className="label">A send lasts (ms)</span>
              <input
                className="field text-right font-mono"
                inputMode="numeric"
                aria-invalid={timeWrong}
                value={ms}
                onChange={(event) => setMs(event.target.value)}
              />
            </label>
            <label>
              <span className="label">Presses a send</span>
              <input
                className="field text-right font-mono"
                inputMode="numeric"
                value={presses}
                onChange={(event) => setPresses(event.target.value)}
              />
            </label>
          </div>
        </div>
      </div>
      {text.trim() && read.error && <ProblemNote text={read.error.message} />}
      {timeWrong && (
        <ProblemNote text="The sending time is a whole number of ms, from 1 to 60000, or nothing." />
      )}
      {error && <ProblemNote text={error.message} />}
      <div className="flex gap-2">
        <button type="submit" className="btn btn-main" disabled={!payload || pending || timeWrong}>
          Keep payload
        </button>
        <button type="button" className="btn" onClick={onCancel}>
          Cancel
        </button>
      </div>
      {payload && <PayloadView hex={payload.hex} sendMs={time} />}
    </form>
  );
}
