import { Pencil, Send, Trash2, X } from "lucide-react";
import { useState } from "react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, data } from "../../api/client";
import { useCode, useEdit } from "../../api/queries";
import type { CodeLine, Device, DeviceFunction } from "../../api/types";
import { useRoom } from "../../shell/context";
import { useLetter } from "../../shell/useKeys";
import { ProblemNote } from "../../ui/Problem";
import { Tabs } from "../../ui/Tabs";
import { Waiting } from "../../ui/Waiting";
import { day } from "../../ui/when";
import { mediumName } from "../kit/words";
import { Attempts } from "./Attempts";
import { TONE, WORD } from "./CodeGrid";
import { CompareView } from "./CompareView";
import { PasteForm } from "./PasteForm";
import { PressForm } from "./PressForm";
import { ReadingView } from "./ReadingView";
import { hostOf, SentView } from "./SentView";
import { pressText } from "./table";
import { TestBar } from "./TestBar";

const VIEWS = [
  ["reading", "Reading"],
  ["compare", "Twins and comparison"],
  ["attempts", "Attempts"],
  ["press", "How its key is pressed"],
] as const;

/** One function of one device: its codes with what they say, or the place to enter one. */
export function CodePanel({
  device,
  fn,
  lines,
  onClose,
}: {
  device: Device;
  fn: DeviceFunction;
  lines: CodeLine[];
  onClose: () => void;
}) {
  const { house, room, say } = useRoom();
  const queries = useQueryClient();
  const [entering, setEntering] = useState(false);
  const [view, setView] = useState("reading");
  const [chosen, setChosen] = useState<string>();
  const line =
    lines.find((known) => known.id === chosen) ?? lines.find((known) => known.preferred) ?? lines[0];
  const version = line ? (house.versions[line.id] ?? 0) : 0;
  const code = useCode(house.house.id, line?.id, version);
  const edit = useEdit(house.house.id);
  const test = useMutation({
    mutationFn: () =>
      data(
        client.POST("/api/houses/{house}/rooms/{room}/test", {
          params: { path: { house: house.house.id, room } },
          body: { device: device.id, function: fn.id },
        }),
      ),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["house", house.house.id] });
    },
  });
  const paste = entering || !line;
  useLetter("t", line && !test.isPending ? () => test.mutate() : undefined);
  useLetter("l", () => setEntering(true));
  const remove = () => {
    if (!line) return;
    edit.mutate([{ do: "remove", kind: "code", id: line.id, base: version }], {
      onSuccess: (saved) => say(saved.title),
    });
  };
  return (
    <section
      aria-label={`${fn.name} of ${device.name}`}
      className="min-h-0 flex-1 overflow-auto pt-2"
      onKeyDown={(event) => {
        if (event.key !== "Escape" || event.defaultPrevented) return;
        if (entering && line) setEntering(false);
        else onClose();
      }}
    >
      <PanelHead
        device={device}
        fn={fn}
        lines={lines}
        line={line}
        paste={paste}
        choose={setChosen}
        enter={() => setEntering(true)}
        removing={edit.isPending}
        remove={remove}
        testing={test.isPending}
        test={() => test.mutate()}
        onClose={onClose}
      />
      {test.error && <ProblemNote text={test.error.message} />}
      {edit.error && <ProblemNote text={edit.error.message} />}
      {test.data && code.data && (
        <TestBar key={test.submittedAt} device={device} fn={fn} code={code.data.code} seen={test.data} />
      )}
      {paste ? (
        <PasteForm
          device={device}
          fn={fn}
          lines={lines}
          onSaved={() => setEntering(false)}
          onCancel={line ? () => setEntering(false) : onClose}
        />
      ) : (
        <>
          <Tabs label={`What is known of ${fn.name}`} parts={VIEWS} value={view} onChange={setView} />
          {view === "reading" && <Reading code={code} device={device} />}
          {view === "compare" && line && <CompareView line={line} />}
          {view === "attempts" && <Attempts device={device} fn={fn} />}
          {view === "press" && (
            // Anew only where what it shows was changed: what is typed outlives every other edit.
            <PressForm key={fn.id + JSON.stringify([fn.press, fn.frames])} device={device} fn={fn} />
          )}
        </>
      )}
    </section>
  );
}

function leadOf(captured: boolean, as: string): string {
  if (captured) return "The capture that it was read from.";
  if (as === "raw") return "Kept as raw timing: it is sent just as it was captured.";
  return "No capture is kept; this is the timing that is sent.";
}

/** When a code got as far as it is. */
function dateOf(line: CodeLine): string {
  const at = line.tested?.at ?? line.since;
  return at ? day(at) : "";
}

/** What the function is, how far its code is, and what can be done with it. */
function PanelHead({
  device,
  fn,
  lines,
  line,
  paste,
  choose,
  enter,
  removing,
  remove,
  testing,
  test,
  onClose,
}: {
  device: Device;
  fn: DeviceFunction;
  lines: CodeLine[];
  line: CodeLine | undefined;
  paste: boolean;
  choose: (id: string) => void;
  enter: () => void;
  removing: boolean;
  remove: () => void;
  testing: boolean;
  test: () => void;
  onClose: () => void;
}) {
  const pressed = pressText(fn);
  return (
    <div className="flex min-h-9 flex-wrap items-center gap-2">
      <h3 className="text-[16px]">
        {device.name} · {fn.name}
      </h3>
      {pressed && <span className="text-[13px] text-second">pressed {pressed}</span>}
      {line && (
        <span className="text-[13px]">
          <span className={TONE[line.state]}>{WORD[line.state]}</span>
          {dateOf(line) && <span className="text-muted"> {dateOf(line)}</span>}
        </span>
      )}
      {lines.length > 1 &&
        lines.map((known) => (
          <button
            key={known.id}
            type="button"
            aria-pressed={known.id === line?.id}
            className={`btn px-2 ${known.id === line?.id ? "bg-select" : ""}`}
            onClick={() => choose(known.id)}
          >
            {mediumName(known.medium)}
            {known.preferred && <span className="text-[12px] text-muted"> is sent</span>}
          </button>
        ))}
      <div className="ml-auto flex items-center gap-2">
        {line && !paste && (
          <>
            <button type="button" className="btn" onClick={enter}>
              <Pencil aria-hidden size={15} /> Enter another <span className="kbd">L</span>
            </button>
            <button type="button" className="btn text-stop" disabled={removing} onClick={remove}>
              <Trash2 aria-hidden size={15} /> Remove code
            </button>
            <button type="button" className="btn btn-main" disabled={testing} onClick={test}>
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
  );
}

/** What the code says, or what it sends. */
function Reading({ code, device }: { code: ReturnType<typeof useCode>; device: Device }) {
  return (
    <>
      {code.data ? (
        code.data.reading ? (
          <ReadingView
            reading={code.data.reading}
            radio={code.data.radio ?? undefined}
            lead={leadOf(code.data.captured, code.data.code.body.as)}
          />
        ) : (
          <SentView code={code.data.code} host={hostOf(device)} />
        )
      ) : (
        <Waiting what="the code" error={code.error} />
      )}
    </>
  );
}
