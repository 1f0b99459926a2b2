import { ClipboardPaste, Send, Trash2, X } from "lucide-react";
import { useState } from "react";
import { useMutation } from "@tanstack/react-query";
import { client, data } from "../../api/client";
import { useCode, useEdit } from "../../api/queries";
import type { CodeLine, Device, DeviceFunction } from "../../api/types";
import { deviceName, useRoom } from "../../shell/context";
import { useLetter } from "../../shell/useKeys";
import { ProblemNote } from "../../ui/Problem";
import { Waiting } from "../../ui/Waiting";
import { PasteForm } from "./PasteForm";
import { ReadingView } from "./ReadingView";

/** One function of one device: its code with the waveform, or the place to paste a capture. */
export function CodePanel({
  device,
  fn,
  line,
  onClose,
}: {
  device: Device;
  fn: DeviceFunction;
  line: CodeLine | undefined;
  onClose: () => void;
}) {
  const { house, room, say } = useRoom();
  const [pasting, setPasting] = useState(false);
  const version = line ? (house.versions[line.id] ?? 0) : 0;
  const code = useCode(house.house.id, line?.id, version);
  const edit = useEdit(house.house.id);
  const send = useMutation({
    mutationFn: () =>
      data(
        client.POST("/api/houses/{house}/rooms/{room}/rehearsal/send", {
          params: { path: { house: house.house.id, room } },
          body: { device: device.id, function: fn.id },
        }),
      ),
  });
  const paste = pasting || !line;
  useLetter("t", line && !send.isPending ? () => send.mutate() : undefined);
  useLetter("l", () => setPasting(true));

  const remove = () => {
    if (!line) return;
    edit.mutate([{ do: "remove", kind: "code", id: line.id, base: version }], {
      onSuccess: (saved) => say(saved.title),
    });
  };
  const heard = send.data?.heard;
  return (
    <section
      aria-label={`${fn.name} of ${device.name}`}
      className="min-h-0 flex-1 overflow-auto pt-2"
      onKeyDown={(event) => {
        if (event.key !== "Escape") return;
        if (pasting && line) setPasting(false);
        else onClose();
      }}
    >
      <div className="flex min-h-9 flex-wrap items-center gap-2">
        <h3 className="text-[16px]">
          {device.name} · {fn.name}
        </h3>
        <div className="ml-auto flex items-center gap-2">
          {line && !paste && (
            <>
              <button type="button" className="btn" onClick={() => setPasting(true)}>
                <ClipboardPaste aria-hidden size={15} /> Paste another <span className="kbd">L</span>
              </button>
              <button type="button" className="btn text-stop" disabled={edit.isPending} onClick={remove}>
                <Trash2 aria-hidden size={15} /> Remove code
              </button>
              <button
                type="button"
                className="btn btn-main"
                disabled={send.isPending}
                onClick={() => send.mutate()}
              >
                <Send aria-hidden size={15} /> Send once <span className="font-mono text-[11px]">T</span>
              </button>
            </>
          )}
          <button
            type="button"
            className="btn border-transparent px-2"
            aria-label="Close this function"
            onClick={onClose}
          >
            <X aria-hidden size={16} />
          </button>
        </div>
      </div>
      {send.error && <ProblemNote text={send.error.message} />}
      {edit.error && <ProblemNote text={edit.error.message} />}
      {heard && (
        <div role="status" className="mb-1 border-l-4 border-second bg-soft px-3 py-1.5">
          {heard.length === 0
            ? "Sent. No device of the rehearsal room understood it."
            : heard.map((one) => (
                <p key={one.device}>
                  Sent. {deviceName(house, one.device)} heard “{one.name}”:{" "}
                  {one.outcome.did === "obeyed" ? one.outcome.what : `ignored, ${one.outcome.why}`}.
                </p>
              ))}
        </div>
      )}
      {paste ? (
        <PasteForm
          device={device}
          fn={fn}
          line={line}
          onSaved={() => setPasting(false)}
          onCancel={line ? () => setPasting(false) : onClose}
        />
      ) : code.data ? (
        <ReadingView
          reading={code.data.reading}
          radio={code.data.radio ?? undefined}
          lead={
            code.data.captured
              ? "The capture that it was read from."
              : code.data.code.body.as === "raw"
                ? "Kept as raw timing: it is sent just as it was captured."
                : "No capture is kept; this is the timing that is sent."
          }
        />
      ) : (
        <Waiting what="the code" error={code.error} />
      )}
    </section>
  );
}
