import { useState } from "react";
import { put, useEdit } from "../../api/queries";
import type { Device, DeviceFunction } from "../../api/types";
import { modelOf, useRoom } from "../../shell/context";
import { ProblemNote } from "../../ui/Problem";
import { parseSeconds, seconds } from "../../ui/time";
import { forget, useTyped } from "../../ui/draft";

/** How the key of a function is pressed: once, twice within a pause, held; and how many frames are needed. */
export function PressForm({ device, fn }: { device: Device; fn: DeviceFunction }) {
  const { house, say } = useRoom();
  const edit = useEdit(house.house.id);
  const model = modelOf(house, device);
  const press = fn.press ?? { presses: 1, hold_ms: 0, gap_ms: 400 };
  const plain = (ms: number) => seconds(ms).replace(" s", "");
  const [presses, setPresses] = useTyped(`press:${fn.id}:presses`, String(press.presses));
  const [hold, setHold] = useTyped(`press:${fn.id}:hold`, plain(press.hold_ms));
  const [gap, setGap] = useTyped(`press:${fn.id}:gap`, plain(press.gap_ms));
  const [frames, setFrames] = useTyped(`press:${fn.id}:frames`, fn.frames == null ? "" : String(fn.frames));
  const [wrong, setWrong] = useState<string>();
  const save = () => {
    const [hold_ms, gap_ms, times] = [parseSeconds(hold), parseSeconds(gap), Number.parseInt(presses, 10)];
    if (hold_ms === undefined || gap_ms === undefined || !(times >= 1 && times <= 9)) {
      setWrong("Presses are 1 to 9; times are seconds, such as 0.4 or 1.2.");
      return;
    }
    const needed = frames.trim() === "" ? null : Number.parseInt(frames, 10);
    if (needed !== null && !(needed >= 1 && needed <= 100)) {
      setWrong("Frames in a row are 1 to 100, or nothing where the protocol's own number holds.");
      return;
    }
    setWrong(undefined);
    const functions = model.functions.map((known) =>
      known.id === fn.id ? { ...known, press: { presses: times, hold_ms, gap_ms }, frames: needed } : known,
    );
    edit.mutate([put({ entity: "profile", value: { ...model, functions } }, house.versions[model.id])], {
      onSuccess: (saved) => {
        forget(`press:${fn.id}`);
        say(saved.title);
      },
    });
  };
  const fields: [string, string, (text: string) => void][] = [
    ["Presses", presses, setPresses],
    ["The last one held for (s, 0 is a tap)", hold, setHold],
    ["Longest pause between presses (s)", gap, setGap],
    ["Frames in a row (empty: as the protocol)", frames, setFrames],
  ];
  return (
    <form
      noValidate
      className="max-w-3xl"
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <p className="mb-2 text-[13px] text-muted">
        One key can be several functions: pressed once, twice, or held. They share its code and differ in
        this. It holds for every {model.maker} {model.model}.
      </p>
      <div className="grid grid-cols-2 gap-3 md:grid-cols-4">
        {fields.map(([label, value, set]) => (
          <label key={label} className="flex flex-col justify-end">
            <span className="label">{label}</span>
            <input className="field" value={value} onChange={(event) => set(event.target.value)} />
          </label>
        ))}
      </div>
      {(wrong ?? edit.error?.message) && (
        <div className="mt-2">
          <ProblemNote text={wrong ?? edit.error?.message ?? ""} />
        </div>
      )}
      <button type="submit" className="btn btn-main mt-2" disabled={edit.isPending}>
        Save
      </button>
    </form>
  );
}
