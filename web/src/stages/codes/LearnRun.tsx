import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { client, data } from "../../api/client";
import { put, useEdit } from "../../api/queries";
import type {
  Code,
  Device,
  DeviceFunction,
  HandsetKey,
  HeardPress,
  LearnView,
  Medium,
  Remark,
} from "../../api/types";
import { modelOf, useRoom } from "../../shell/context";
import { useLetter } from "../../shell/useKeys";
import { Choice } from "../../ui/Choice";
import { ProblemNote } from "../../ui/Problem";
import { StageHead } from "../../ui/StageHead";
import { usedMedium } from "../kit/words";
import { GLYPH, TONE, WORD } from "./CodeGrid";
import { nextKey, pressOf, rememberKey, startKey, stepOf, type Thumb } from "./learn";
import { ReadingView } from "./ReadingView";
import { pressText } from "./table";

/** Learning a handset: its keys one after the other, with the keyboard alone. */
export function LearnRun({
  device,
  devices,
  onDevice,
  onClose,
}: {
  device: Device;
  devices: Device[];
  onDevice: (id: string) => void;
  onClose: () => void;
}) {
  const { house } = useRoom();
  const model = modelOf(house, device);
  const functions = model.functions;
  const coded = new Set(house.codes.filter((code) => code.device === device.id).map((code) => code.function));
  const [current, setCurrent] = useState(() => startKey(device.id, functions, coded));
  const fn = functions.find((known) => known.id === current) ?? functions[0];
  const learned = functions.filter((known) => coded.has(known.id)).length;
  const choose = useCallback(
    (id: string | undefined) => {
      if (!id) return;
      setCurrent(id);
      rememberKey(device.id, id);
    },
    [device.id],
  );
  return (
    <section aria-label={`Learning ${device.name}`} className="flex h-full min-h-0 flex-col">
      <StageHead
        title="Learn"
        figure={`${learned} of ${functions.length} keys of ${device.name} have a code`}
      >
        <Choice
          label="Handset of"
          className="w-48"
          value={device.id}
          onChange={onDevice}
          options={devices.map((known) => ({ value: known.id, label: known.name }))}
        />
        <button type="button" className="btn" onClick={onClose}>
          Back to the table <span className="kbd">Esc</span>
        </button>
      </StageHead>
      <div className="grid min-h-0 flex-1 grid-cols-[190px_minmax(0,1fr)_200px] gap-4 border-t border-ink pt-2">
        <ol className="overflow-auto" aria-label="Keys to learn">
          {functions.map((known) => {
            const state =
              house.codes.find((code) => code.device === device.id && code.function === known.id)?.state ??
              "none";
            return (
              <li key={known.id}>
                <button
                  type="button"
                  aria-current={known.id === fn?.id ? "step" : undefined}
                  className={`flex min-h-8 w-full items-center gap-2 px-1.5 text-left hover:bg-soft ${known.id === fn?.id ? "bg-select font-semibold" : ""}`}
                  onClick={() => choose(known.id)}
                >
                  <span aria-hidden className={TONE[state]}>
                    {GLYPH[state]}
                  </span>
                  <span className="truncate">{known.name}</span>
                  <span className="sr-only">{WORD[state]}</span>
                </button>
              </li>
            );
          })}
        </ol>
        {fn ? (
          <LearnKey
            key={fn.id}
            device={device}
            fn={fn}
            onNext={() => choose(nextKey(functions, fn.id, coded))}
            onClose={onClose}
          />
        ) : (
          <p>{device.name} has no functions yet. Add them in the table, or import a keymap.</p>
        )}
      </div>
    </section>
  );
}

/** The handset that plays the hand: its keys, which of them is the asked one, and how it is pressed. */
function useHandset(device: Device, fn: DeviceFunction, step: ReturnType<typeof stepOf>, listening: boolean) {
  const { house, room } = useRoom();
  const path = { house: house.house.id, room };
  const [thumb, setThumb] = useState<Thumb>("as-asked");
  const keys = useQuery({
    queryKey: ["handset", device.id, house.versions[device.profile]],
    queryFn: () =>
      data(
        client.GET("/api/houses/{house}/rooms/{room}/handset", {
          params: { path, query: { device: device.id } },
        }),
      ),
    placeholderData: (before) => before,
  });
  const own = ownKey(keys.data, fn, modelOf(house, device).functions);
  const hand = useMutation({
    mutationFn: ({ key, how }: { key: HandsetKey; how: Thumb }) =>
      data(
        client.POST("/api/houses/{house}/rooms/{room}/handset", {
          params: { path },
          body: { device: device.id, key: key.function, ...pressOf(how, step, fn, key.medium) },
        }),
      ),
  });
  const press = (key: HandsetKey | undefined) => {
    if (key && listening && !hand.isPending) hand.mutate({ key, how: thumb });
  };
  return { keys, own, hand, press, thumb, setThumb };
}

/** Learning one key: what is listened for, what was heard, and what can be done with it. */
function useLearning(device: Device, fn: DeviceFunction, onNext: () => void) {
  const { house, room } = useRoom();
  const queries = useQueryClient();
  const path = { house: house.house.id, room };
  const usual: Medium = usedMedium(modelOf(house, device), device) === "rf433" ? "rf433" : "ir";
  const [medium, setMedium] = useState<Medium>(usual);
  const [presses, setPresses] = useState<HeardPress[]>([]);
  const [heard, setHeard] = useState<LearnView>();
  const [frequency, setFrequency] = useState<number>();
  const abort = useRef<AbortController>(undefined);
  const step = stepOf(medium, frequency, presses.length, heard);

  const listen = useMutation({
    mutationFn: () => {
      abort.current?.abort();
      abort.current = new AbortController();
      const signal = abort.current.signal;
      if (step === "sweep") {
        return data(client.POST("/api/houses/{house}/rooms/{room}/sweep", { params: { path }, signal })).then(
          (found) => {
            if (found.frequency_hz) setFrequency(found.frequency_hz);
            return found.next;
          },
        );
      }
      return data(
        client.POST("/api/houses/{house}/rooms/{room}/learn", {
          params: { path },
          body: { device: device.id, function: fn.id, medium, before: presses },
          signal,
        }),
      ).then((view) => {
        setPresses(view.presses);
        setHeard(view);
        void queries.invalidateQueries({ queryKey: ["house", house.house.id, "attempts"] });
        return "";
      });
    },
  });
  const { mutate: startListening } = listen;
  // Listening starts by itself: the hand is on the handset. A step that has been answered waits for a key.
  useEffect(() => {
    if (step !== "answered") startListening();
  }, [step, presses.length, startListening]);
  useEffect(() => () => abort.current?.abort(), []);

  const { keys, own, hand, press, thumb, setThumb } = useHandset(device, fn, step, listen.isPending);

  const again = (keep: boolean) => {
    if (!keep) setPresses([]);
    setHeard(undefined);
    // Where the step stays the same, no effect would start it.
    if (!heard) startListening();
  };
  const radio = () => {
    setMedium("rf433");
    setFrequency(undefined);
    setPresses([]);
    setHeard(undefined);
  };
  const infrared = () => {
    setMedium("ir");
    setPresses([]);
    setHeard(undefined);
  };
  const { edit, remarks, stops, body, other, keep, keepHere } = useKeeping(device, fn, medium, heard, onNext);
  const enter = () => {
    if (!heard) {
      if (!listen.isPending) startListening();
    } else if (remarks.some((remark) => remark.trouble === "is-radio")) radio();
    else if (remarks.some((remark) => remark.trouble === "is-infrared")) infrared();
    else if (stops) again(remarks.some((remark) => remark.trouble === "press-again"));
    else keep();
  };
  return {
    step,
    listen,
    hand,
    edit,
    heard,
    presses,
    remarks,
    stops,
    body,
    other,
    keys,
    own,
    thumb,
    setThumb,
    press,
    again,
    enter,
    keepHere,
  };
}

/** One key: listening, what was heard, and what follows. */
function LearnKey({
  device,
  fn,
  onNext,
  onClose,
}: {
  device: Device;
  fn: DeviceFunction;
  onNext: () => void;
  onClose: () => void;
}) {
  const learning = useLearning(device, fn, onNext);
  const { step, listen, hand, edit, heard, presses, remarks, stops, body, other, own, press, again, enter } =
    learning;
  useLetter(" ", () => press(own));
  useLetter("enter", enter);
  useLetter("a", heard ? () => again(true) : undefined);
  useLetter("d", heard ? () => again(false) : undefined);
  useLetter("s", onNext);
  useLetter("escape", onClose);

  return (
    <>
      <div className="min-h-0 overflow-auto">
        <h3 className="text-[19px]">
          {fn.name}
          {pressText(fn) && (
            <span className="text-[14px] font-normal text-second"> pressed {pressText(fn)}</span>
          )}
        </h3>
        <p role="status" aria-live="polite" className="mt-1 min-h-12 text-[15px]">
          {instruction(step, fn, listen.isPending, heard, listen.data)}
        </p>
        {listen.error && listen.error.name !== "AbortError" && <ProblemNote text={listen.error.message} />}
        {hand.error && <ProblemNote text={hand.error.message} />}
        {edit.error && <ProblemNote text={edit.error.message} />}
        <Remarks remarks={remarks} />
        <div className="mt-2 flex flex-wrap gap-2">
          <Action
            main
            letter="Enter"
            name={enterName(heard, remarks, stops, listen.isPending)}
            disabled={edit.isPending || (listen.isPending && !heard)}
            onClick={enter}
          />
          <Action letter="D" name="Discard and listen again" disabled={!heard} onClick={() => again(false)} />
          <Action
            letter="A"
            name="Press again for a better reading"
            disabled={!heard || !body}
            onClick={() => again(true)}
          />
          <Action letter="S" name="Skip this key" onClick={onNext} />
          {other && body && (
            <button type="button" className="btn" onClick={learning.keepHere}>
              Keep it here, and learn the other one again
            </button>
          )}
        </div>
        {heard?.judgement.reading && (
          <div className="mt-3">
            <ReadingView
              reading={heard.judgement.reading}
              lead={presses.length > 1 ? `${presses.length} presses together.` : ""}
            />
          </div>
        )}
        {heard?.judgement.radio && (
          <p className="mt-2">
            Heard a fixed radio code, {heard.judgement.radio.frames} frames, short unit{" "}
            {heard.judgement.radio.unit_us.toFixed(0)} µs.
          </p>
        )}
      </div>
      <Handset
        keys={learning.keys.data ?? []}
        own={own}
        thumb={learning.thumb}
        onThumb={learning.setThumb}
        listening={listen.isPending}
        onPress={press}
      />
    </>
  );
}

function Action({
  letter,
  name,
  onClick,
  disabled = false,
  main = false,
}: {
  letter: string;
  name: string;
  onClick: () => void;
  disabled?: boolean;
  main?: boolean;
}) {
  return (
    <button type="button" className={`btn ${main ? "btn-main" : ""}`} disabled={disabled} onClick={onClick}>
      {name} <span className="font-mono text-[11px]">{letter}</span>
    </button>
  );
}

/** The key of the handset that belongs to a function; home twice is the key of home. */
function ownKey(keys: HandsetKey[] | undefined, fn: DeviceFunction, functions: DeviceFunction[]) {
  const direct = keys?.find((key) => key.function === fn.id);
  if (direct) return direct;
  const sends = JSON.stringify(fn.answers_to);
  const base = functions.find((known) => known.id !== fn.id && JSON.stringify(known.answers_to) === sends);
  return base && keys?.find((key) => key.function === base.id);
}

function instruction(
  step: ReturnType<typeof stepOf>,
  fn: DeviceFunction,
  listening: boolean,
  heard: LearnView | undefined,
  said: string | undefined,
): string {
  if (heard) {
    const body = heard.judgement.body;
    if (heard.judgement.remarks.some((remark) => remark.stops)) return "";
    return body && heard.judgement.remarks.length === 0 ? "Heard, and nothing speaks against it." : "Heard.";
  }
  if (!listening) return said ? said : "Not listening.";
  switch (step) {
    case "sweep":
      return `Listening for the frequency. Hold “${fn.name}” down, close to the learner.`;
    case "radio-first":
      return `The frequency is found. Let go, then press “${fn.name}” once. Listening.`;
    case "radio-second":
      return `Listening. Press “${fn.name}” once more, so that a rolling code shows itself.`;
    default:
      return `Listening. Press “${fn.name}” on the handset${pressText(fn) ? `: ${pressText(fn)} when it is sent, one press to learn` : ""}.`;
  }
}

function enterName(
  heard: LearnView | undefined,
  remarks: Remark[],
  stops: boolean,
  listening: boolean,
): string {
  if (!heard) return listening ? "Listening …" : "Listen";
  if (remarks.some((remark) => remark.trouble === "is-radio")) return "Learn it as radio";
  if (remarks.some((remark) => remark.trouble === "is-infrared")) return "Learn it as infrared";
  if (remarks.some((remark) => remark.trouble === "press-again")) return "Listen for the second press";
  if (stops) return "Listen again";
  return remarks.length > 0 ? "Keep it all the same" : "Keep it and go on";
}

const TITLE: Record<Remark["trouble"], string> = {
  "nothing-heard": "Nothing heard",
  "two-keys": "Two keys",
  "same-as-another": "The code of another key",
  "toggle-only": "A toggle bit, no second code",
  swapped: "On and off swapped?",
  "too-short": "Too short",
  "is-radio": "This key is radio",
  "is-infrared": "This key is infrared",
  rolling: "Rolling code, refused",
  "press-again": "One press is not enough",
  unknown: "Not recognised",
};

function Remarks({ remarks }: { remarks: Remark[] }) {
  return (
    <ul className="mt-1 grid gap-1">
      {remarks.map((remark) => (
        <li
          key={remark.trouble}
          className={`border-l-4 bg-soft px-3 py-1.5 ${remark.stops ? "border-stop" : "border-caution"}`}
        >
          <span className={`font-semibold ${remark.stops ? "text-stop" : "text-caution"}`}>
            {TITLE[remark.trouble]}.
          </span>{" "}
          {remark.text}
        </li>
      ))}
    </ul>
  );
}

const THUMBS: readonly [Thumb, string][] = [
  ["as-asked", "as asked"],
  ["tap", "a tap"],
  ["hold", "held"],
  ["slip", "a slip"],
];

/** The handset stand-in: the remote on the table and a thumb. */
function Handset({
  keys,
  own,
  thumb,
  onThumb,
  listening,
  onPress,
}: {
  keys: HandsetKey[];
  own: HandsetKey | undefined;
  thumb: Thumb;
  onThumb: (thumb: Thumb) => void;
  listening: boolean;
  onPress: (key: HandsetKey) => void;
}) {
  return (
    <aside aria-label="Handset on the table" className="min-h-0 overflow-auto border-l border-rule pl-3">
      <h3 className="text-[14px]">Handset on the table</h3>
      <p className="text-[13px] text-muted">
        A stand-in for the real one. Space presses the key that is asked for; click another to press the wrong
        one.
      </p>
      <div className="mt-1">
        <span className="label">The thumb gives</span>
        <Choice
          label="The thumb gives"
          value={thumb}
          onChange={(value) => onThumb(value as Thumb)}
          options={THUMBS.map(([value, label]) => ({ value, label }))}
        />
      </div>
      <div className="mt-2 grid grid-cols-2 gap-1.5">
        {keys.map((key) => (
          <button
            key={key.function}
            type="button"
            disabled={!listening}
            aria-label={`Press ${key.name} on the handset`}
            className={`min-h-9 rounded-[14px] border px-1 text-[13px] leading-tight ${key.function === own?.function ? "border-accent font-semibold text-accent" : "border-edge"} disabled:text-muted`}
            onClick={() => onPress(key)}
          >
            {key.name}
          </button>
        ))}
      </div>
      {keys.length === 0 && (
        <p className="mt-2">No handset came with this model, or nobody knows what it sends.</p>
      )}
    </aside>
  );
}

/** What was heard, kept as the code of the key; or here and no longer at the key that it was swapped with. */
function useKeeping(
  device: Device,
  fn: DeviceFunction,
  medium: Medium,
  heard: LearnView | undefined,
  onNext: () => void,
) {
  const { house, say } = useRoom();
  const edit = useEdit(house.house.id);
  const remarks = heard?.judgement.remarks ?? [];
  const stops = remarks.some((remark) => remark.stops);
  const body = heard?.judgement.body ?? undefined;
  const code = house.codes.find(
    (known) => known.device === device.id && known.function === fn.id && known.medium === medium,
  );
  const value = (function_: string, id: string | undefined): Code | undefined =>
    body && {
      id: id ?? crypto.randomUUID(),
      device: device.id,
      function: function_,
      body,
      captured: heard?.judgement.capture ?? null,
      since: new Date().toISOString(),
    };
  const keep = () => {
    const kept = value(fn.id, code?.id);
    if (!kept || stops || edit.isPending) return;
    edit.mutate([put({ entity: "code", value: kept }, code ? house.versions[code.id] : undefined)], {
      onSuccess: (saved) => {
        say(saved.title);
        onNext();
      },
    });
  };
  const swapped = remarks.find((remark) => remark.trouble === "swapped" && remark.function);
  const other =
    swapped && house.codes.find((known) => known.device === device.id && known.function === swapped.function);
  const keepHere = () => {
    const kept = value(fn.id, code?.id);
    if (!kept || !other) return;
    edit.mutate(
      [
        put({ entity: "code", value: kept }, code ? house.versions[code.id] : undefined),
        { do: "remove", kind: "code", id: other.id, base: house.versions[other.id] ?? 0 },
      ],
      { onSuccess: (saved) => say(saved.title) },
    );
  };
  return { edit, remarks, stops, body, other, keep, keepHere };
}
