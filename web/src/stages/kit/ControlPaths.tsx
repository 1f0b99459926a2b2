import { ArrowDown, ArrowUp, HelpCircle, Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { useAdvice, put, useEdit } from "../../api/queries";
import type { ControlPath, Device, PathClass } from "../../api/types";
import { deviceName, modelOf, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { ProblemNote } from "../../ui/Problem";
import { RemoteSheet } from "./RemoteSheet";
import { MEDIA, mediumName } from "./words";

const CLASS: Record<PathClass, string> = {
  "ip-feedback": "IP with feedback",
  "serial-replies": "serial with replies",
  mesh: "mesh radio",
  "ip-one-way": "IP without feedback",
  "ir-discrete": "infrared with discrete codes",
  rf: "radio",
  "serial-one-way": "one-way serial",
  "ir-toggle": "infrared toggles",
  trigger: "12 V trigger",
  "usb-power": "USB power",
  bluetooth: "Bluetooth",
};

const ANY = "any";

/** The ways in which commands reach a device, the preferred one first, and what would be better. */
export function ControlPaths({ device }: { device: Device }) {
  const { house, say } = useRoom();
  const edit = useEdit(house.house.id);
  const advice = useAdvice(house.house.id, device.id, house.revision);
  const [asking, setAsking] = useState(false);
  const model = modelOf(house, device);
  const setUp = device.paths ?? [];
  const paths: ControlPath[] =
    setUp.length > 0
      ? setUp
      : (advice.data ?? []).map((one) => ({
          ...one.offer,
          through: null,
          tries: { lost: 0, of: 0 },
          note: "",
        }));
  const gateways = house.devices.filter(
    (known) => modelOf(house, known).kind === "gateway" && known.id !== device.id,
  );
  const save = (next: ControlPath[]) =>
    edit.mutate([put({ entity: "device", value: { ...device, paths: next } }, house.versions[device.id])], {
      onSuccess: (saved) => say(saved.title),
    });
  const change = (at: number, part: Partial<ControlPath>) =>
    save(paths.map((path, index) => (index === at ? { ...path, ...part } : path)));
  const move = (at: number, by: number) => {
    const next = [...paths];
    const [one] = next.splice(at, 1);
    if (one) next.splice(at + by, 0, one);
    save(next);
  };
  // Where nobody has chosen a gateway, the one that reaches it is named.
  const reachedBy = (medium: ControlPath["medium"]) => {
    const gateway = (advice.data ?? []).find((one) => one.offer.medium === medium)?.gateway;
    return gateway ? `whichever reaches it: ${deviceName(house, gateway)}` : "whichever reaches it";
  };
  const free = MEDIA.filter(([medium]) => !paths.some((path) => path.medium === medium));

  return (
    <div className="max-w-[880px]">
      <div className="scrolls">
        <table className="w-full" aria-label={`Control paths of ${device.name}`}>
          <PathHead />
          <tbody>
            {paths.map((path, at) => (
              <PathRow
                key={path.medium}
                path={path}
                at={at}
                last={at === paths.length - 1}
                gateways={gateways}
                whichever={reachedBy(path.medium)}
                pending={edit.isPending}
                change={(part) => change(at, part)}
                move={(by) => move(at, by)}
                remove={() => save(paths.filter((_, index) => index !== at))}
              />
            ))}
          </tbody>
        </table>
      </div>
      {paths.length === 0 && <p className="py-1 text-muted">No command reaches {device.name}.</p>}
      <div className="mt-2 flex flex-wrap items-center gap-2">
        {free.length > 0 && (
          <Choice
            label="Add a control path"
            placeholder="Add a control path"
            className="w-52"
            value=""
            onChange={(medium) =>
              save([
                ...paths,
                {
                  medium: medium as ControlPath["medium"],
                  replies: model.offers.find((offer) => offer.medium === medium)?.replies ?? false,
                  through: null,
                  tries: { lost: 0, of: 0 },
                  note: "",
                },
              ])
            }
            options={free.map(([value, label]) => ({ value, label }))}
          />
        )}
        <button type="button" className="btn" onClick={() => setAsking(true)}>
          <HelpCircle aria-hidden size={15} /> What is this remote?
        </button>
        <span className="text-[13px] text-muted">
          {setUp.length === 0 &&
            paths.length > 0 &&
            "As the model offers them; a change sets them up for this device."}
        </span>
      </div>
      {edit.error && <ProblemNote text={edit.error.message} />}
      <WhatIsBest advice={advice.data ?? []} />
      <PathOrder />
      <RemoteSheet
        open={asking}
        onClose={() => setAsking(false)}
        onTake={(medium) => {
          setAsking(false);
          if (!paths.some((path) => path.medium === medium))
            save([...paths, { medium, replies: false, through: null, tries: { lost: 0, of: 0 }, note: "" }]);
        }}
      />
    </div>
  );
}

/** The order in which this house prefers control paths; changed here for the whole house. */
function PathOrder() {
  const { house, say } = useRoom();
  const edit = useEdit(house.house.id);
  const own = house.house.path_order ?? [];
  const order = [...own, ...(Object.keys(CLASS) as PathClass[]).filter((known) => !own.includes(known))];
  const save = (path_order: PathClass[]) =>
    edit.mutate(
      [put({ entity: "house", value: { ...house.house, path_order } }, house.versions[house.house.id])],
      {
        onSuccess: (saved) => say(saved.title),
        onError: (error) => say(error.message),
      },
    );
  return (
    <details className="mt-2">
      <summary className="cursor-pointer text-[13px] text-accent">
        The order of control paths in this house
      </summary>
      <ol className="mt-1 grid gap-0.5">
        {order.map((known, at) => (
          <li key={known} className="flex items-center gap-2">
            <span className="w-6 text-right font-mono text-[13px]">{at + 1}</span>
            <span className="w-56">{CLASS[known]}</span>
            <button
              type="button"
              className="btn border-transparent px-1.5"
              aria-label={`Move ${CLASS[known]} up`}
              disabled={at === 0 || edit.isPending}
              onClick={() => {
                const next = [...order];
                next.splice(at, 1);
                next.splice(at - 1, 0, known);
                save(next);
              }}
            >
              <ArrowUp aria-hidden size={15} />
            </button>
          </li>
        ))}
      </ol>
      {own.length > 0 && (
        <button type="button" className="link" onClick={() => save([])}>
          <Plus aria-hidden size={13} className="rotate-45" /> Back to the usual order
        </button>
      )}
    </details>
  );
}

/** How many presses were lost, of how many that were counted. */
function Tries({
  path,
  onChange,
}: {
  path: ControlPath;
  onChange: (tries: NonNullable<ControlPath["tries"]>) => void;
}) {
  const tries = path.tries ?? { lost: 0, of: 0 };
  const number = (text: string) => Math.max(0, Math.min(99_999, Number.parseInt(text, 10) || 0));
  return (
    <span className="flex items-center justify-end gap-1">
      <Typed
        label={`Lost presses by ${mediumName(path.medium)}`}
        narrow
        value={String(tries.lost)}
        onDone={(text) => onChange({ ...tries, lost: number(text) })}
      />
      of
      <Typed
        label={`Counted presses by ${mediumName(path.medium)}`}
        narrow
        value={String(tries.of)}
        onDone={(text) => onChange({ ...tries, of: number(text) })}
      />
    </span>
  );
}

/** A field that is saved when it is left or Enter is pressed. */
export function Typed({
  label,
  value,
  onDone,
  narrow = false,
  invalid = false,
}: {
  label: string;
  value: string;
  onDone: (text: string) => void;
  narrow?: boolean;
  invalid?: boolean;
}) {
  const [text, setText] = useState(value);
  const [known, setKnown] = useState(value);
  const [sent, setSent] = useState<string>();
  if (known !== value) {
    setKnown(value);
    setText(value);
    setSent(undefined);
  }
  const done = () => {
    if (text === value) return;
    setSent(text);
    onDone(text);
  };
  return (
    <input
      aria-label={label}
      aria-invalid={invalid}
      className={`field ${narrow ? "w-14 text-right font-mono" : ""}`}
      autoComplete="off"
      value={text}
      onChange={(event) => setText(event.target.value)}
      // What was refused stays, and is not sent again by leaving the field.
      onBlur={() => text !== sent && done()}
      onKeyDown={(event) => {
        if (event.key === "Enter") {
          event.preventDefault();
          done();
        }
        if (event.key === "Escape" && text !== value) {
          event.stopPropagation();
          setText(value);
        }
      }}
    />
  );
}

/** Columns of the control paths. */
function PathHead() {
  return (
    <thead>
      <tr className="border-b border-ink text-[13px] text-muted">
        <th scope="col" className="py-1 pr-2">
          Commands go by
        </th>
        <th scope="col" className="px-2">
          It answers
        </th>
        <th scope="col" className="px-2">
          Through
        </th>
        <th scope="col" className="px-2 text-right">
          Lost of tried
        </th>
        <th scope="col" className="px-2">
          Emitter, socket, pairing
        </th>
        <th scope="col">
          <span className="sr-only">Order</span>
        </th>
      </tr>
    </thead>
  );
}

/** One way to a device: does it answer, through what, how it was tried, where it stands in the order. */
function PathRow({
  path,
  at,
  last,
  gateways,
  whichever,
  pending,
  change,
  move,
  remove,
}: {
  path: ControlPath;
  at: number;
  last: boolean;
  gateways: Device[];
  whichever: string;
  pending: boolean;
  change: (part: Partial<ControlPath>) => void;
  move: (by: number) => void;
  remove: () => void;
}) {
  return (
    <tr className="border-b border-rule">
      <th scope="row" className="py-1 pr-2 font-normal whitespace-nowrap">
        {at === 0 && <span className="mr-1.5 font-semibold text-accent">preferred</span>}
        {mediumName(path.medium)}
      </th>
      <td className="px-2">
        <label className="flex min-h-8 items-center gap-1.5">
          <input
            type="checkbox"
            className="size-4"
            checked={path.replies ?? false}
            onChange={(event) => change({ replies: event.target.checked })}
          />
          answers
        </label>
      </td>
      <td className="px-2">
        <Choice
          label={`Gateway for ${mediumName(path.medium)}`}
          value={path.through ?? ANY}
          onChange={(value) => change({ through: value === ANY ? null : value })}
          options={[
            { value: ANY, label: whichever },
            ...gateways.map((known) => ({ value: known.id, label: known.name })),
          ]}
        />
      </td>
      <td className="px-2">
        <Tries path={path} onChange={(tries) => change({ tries })} />
      </td>
      <td className="px-2">
        <Typed
          label={`Note on ${mediumName(path.medium)}`}
          value={path.note ?? ""}
          onDone={(note) => change({ note })}
        />
      </td>
      <td className="whitespace-nowrap">
        <button
          type="button"
          className="btn border-transparent px-1.5"
          aria-label={`Prefer ${mediumName(path.medium)} more`}
          disabled={at === 0 || pending}
          onClick={() => move(-1)}
        >
          <ArrowUp aria-hidden size={15} />
        </button>
        <button
          type="button"
          className="btn border-transparent px-1.5"
          aria-label={`Prefer ${mediumName(path.medium)} less`}
          disabled={last || pending}
          onClick={() => move(1)}
        >
          <ArrowDown aria-hidden size={15} />
        </button>
        <button
          type="button"
          className="btn border-transparent px-1.5"
          aria-label={`Take ${mediumName(path.medium)} away`}
          disabled={pending}
          onClick={remove}
        >
          <Trash2 aria-hidden size={15} />
        </button>
      </td>
    </tr>
  );
}

/** The ways that there could be, the best first. */
function WhatIsBest({ advice }: { advice: NonNullable<ReturnType<typeof useAdvice>["data"]> }) {
  return (
    <>
      <h4 className="mt-3 font-semibold">What would be best</h4>
      <ol className="text-[14px]">
        {advice.map((one, at) => (
          <li key={one.class} className="border-t border-rule py-1">
            <span className="font-semibold">
              {at + 1}. {CLASS[one.class]}
            </span>{" "}
            <span className="text-muted">(number {one.rank} in the order of this house)</span> {one.why}
            {one.missing && <span className="text-caution"> {one.missing}</span>}
          </li>
        ))}
      </ol>
    </>
  );
}
