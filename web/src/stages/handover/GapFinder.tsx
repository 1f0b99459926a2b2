import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, data } from "../../api/client";
import { putOver } from "../../api/entities";
import { useEdit } from "../../api/queries";
import type { GapDevice, SeenIn, CountedBurst } from "../../api/types";
import { deviceName, functionName, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { ProblemNote } from "../../ui/Problem";
import { seconds } from "../../ui/time";
import { useRoomPath, useTakeGap } from "./api";

const percent = (share: number) => `${(share * 100).toFixed(0)} %`;

/** The shortest pause between commands that a device follows: bursts, a count for each, a pause. */
export function GapFinder({ gaps }: { gaps: GapDevice[] }) {
  const { house } = useRoom();
  const [device, setDevice] = useState(gaps[0]?.device ?? "");
  const [open, setOpen] = useState(false);
  const chosen = gaps.find((known) => known.device === device) ?? gaps[0];
  if (!chosen) return null;
  return (
    <section aria-label="Gap finder" className="mt-6 border-t border-rule pt-3">
      <h3 className="text-[16px]">Gap finder</h3>
      <p className="max-w-3xl text-muted">
        The shortest pause between commands that a device follows, by bursts of a key whose effect can be
        counted. Power, motors, heat and <em>louder</em> are never sent in bursts.
      </p>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <Choice
          label="Device of the gap finder"
          className="w-56"
          value={chosen.device}
          options={gaps.map((known) => ({
            value: known.device,
            label: deviceName(house, known.device),
            hint: known.known.in_use ? `waits ${seconds(known.known.in_use.hi_ms)}` : "",
          }))}
          onChange={(value) => {
            setDevice(value);
            setOpen(false);
          }}
        />
        <span className="text-muted">
          waits {seconds(chosen.known.in_use?.hi_ms ?? 0)} after a command
          {chosen.known.in_use?.basis.from === "measured" && `, ${chosen.known.in_use.basis.n} clean bursts`}
        </span>
        {!open && (
          <button type="button" className="btn" onClick={() => setOpen(true)}>
            Find its shortest pause
          </button>
        )}
      </div>
      {open && <Search key={chosen.device} gap={chosen} onDone={() => setOpen(false)} />}
      <LossTest key={`loss ${chosen.device}`} gap={chosen} />
    </section>
  );
}

type Pause = "gap" | "digits" | "longest";

const PAUSES: readonly (readonly [Pause, string])[] = [
  ["gap", "between commands"],
  ["digits", "between digits"],
  ["longest", "longest between digits"],
];

function Search({ gap, onDone }: { gap: GapDevice; onDone: () => void }) {
  const { house } = useRoom();
  const params = useRoomPath();
  const [key, setKey] = useState(gap.keys[0] ?? "");
  const [seen, setSeen] = useState<SeenIn>("rehearsed");
  const [tried, setTried] = useState<CountedBurst[]>([]);
  const [waits, setWaits] = useState(false);
  const [pause, setPause] = useState<Pause>("gap");
  const longest = pause === "longest";
  const timing = longest ? "digits" : pause;
  const view = useQuery({
    queryKey: ["gap", params.path.house, gap.device, longest, tried],
    queryFn: () =>
      data(
        client.POST("/api/houses/{house}/rooms/{room}/gap", {
          params,
          body: { device: gap.device, tried, longest },
        }),
      ),
    placeholderData: (before) => before,
  });
  const take = useTakeGap();
  const next = view.data?.next;
  const count = (counted: number) => {
    if (next?.next !== "send") return;
    setTried([...tried, { pause_ms: next.pause_ms, sent: next.presses, counted }]);
    setWaits(false);
  };
  const burst = useMutation({
    mutationFn: ({ pause_ms, presses }: { pause_ms: number; presses: number }) =>
      data(
        longest
          ? client.POST("/api/houses/{house}/rooms/{room}/gap/numbers", {
              params,
              body: { device: gap.device, pause_ms, numbers: presses },
            })
          : client.POST("/api/houses/{house}/rooms/{room}/gap/burst", {
              params,
              body: { device: gap.device, function: key, pause_ms, presses },
            }),
      ),
    onSuccess: (answer) => count(answer.counted),
  });
  const trouble = view.error ?? burst.error ?? take.error;
  return (
    <div className="mt-3 max-w-3xl">
      <div className="flex flex-wrap items-center gap-2">
        {longest ? (
          <span>
            the number{" "}
            <strong>{gap.number.map((own) => functionName(house, gap.device, own)).join(" ")}</strong>
          </span>
        ) : (
          <Choice
            label="Key of the bursts"
            className="w-52"
            value={key}
            options={gap.keys.map((own) => ({ value: own, label: functionName(house, gap.device, own) }))}
            onChange={setKey}
          />
        )}
        <Choice
          label="Which pause"
          className="w-48"
          value={pause}
          disabled={tried.length > 0}
          options={PAUSES.filter(([one]) => one !== "longest" || gap.number.length > 0).map(
            ([value, label]) => ({
              value,
              label,
            }),
          )}
          onChange={(value) => setPause(value as Pause)}
        />
        <div role="group" aria-label="Where the bursts are counted" className="flex gap-1">
          {(["rehearsed", "house"] as const).map((where) => (
            <button
              key={where}
              type="button"
              aria-pressed={seen === where}
              disabled={tried.length > 0}
              className={`btn ${seen === where ? "bg-select" : ""}`}
              onClick={() => setSeen(where)}
            >
              {where === "house" ? "In the house" : "In the rehearsal room"}
            </button>
          ))}
        </div>
      </div>
      {next?.next === "send" && (
        <div className="mt-2">
          <p data-testid="gap-next">
            <strong>
              {longest
                ? `The number ${next.presses} times, its digits ${next.pause_ms} ms apart.`
                : `${next.presses} presses, ${next.pause_ms} ms apart.`}
            </strong>{" "}
            <span className="text-muted">{next.why}</span>
          </p>
          {seen === "rehearsed" ? (
            <button
              type="button"
              className="btn btn-main mt-1"
              disabled={burst.isPending}
              onClick={() => burst.mutate(next)}
            >
              {burst.isPending ? "Sending …" : longest ? "Enter the number" : "Send the burst"}
            </button>
          ) : !waits ? (
            <button type="button" className="btn btn-main mt-1" onClick={() => setWaits(true)}>
              It was sent; count
            </button>
          ) : (
            <div role="group" aria-label="How many were seen" className="mt-1 flex flex-wrap gap-1">
              {Array.from({ length: next.presses + 2 }, (_, many) => (
                <button key={many} type="button" className="btn" onClick={() => count(many)}>
                  {many}
                </button>
              ))}
            </div>
          )}
        </div>
      )}
      {next?.next === "path-loses" && (
        <ProblemNote
          text={
            longest
              ? "Half a second apart the digits are no number: the path loses presses, or the number is none of its channels. Find the shortest pause first, and look at the channel in Kit."
              : "Presses are lost at one second apart: the path itself loses them, whatever the pause. Mend it first: a nearer emitter, another gateway, a cable."
          }
        />
      )}
      {next?.next === "found" && (
        <p className="mt-2" data-testid="gap-found">
          <strong>{next.clean_ms} ms</strong> was the {longest ? "longest" : "shortest"} pause with three
          clean bursts: a plan waits {longest && "no longer than "}
          <strong>{next.pause_ms} ms</strong>, a {longest ? "fifth less" : "quarter more"}.{" "}
          <button
            type="button"
            className="btn btn-main"
            disabled={take.isPending}
            onClick={() =>
              take.mutate({ device: gap.device, timing, tried, seen, longest }, { onSuccess: onDone })
            }
          >
            {seen === "house" ? `Take ${next.pause_ms} ms over` : "Keep it as rehearsed"}
          </button>
        </p>
      )}
      {trouble && <ProblemNote text={trouble.message} />}
      {(view.data?.lost.length ?? 0) > 0 && (
        <table className="mt-2 border-collapse">
          <caption className="text-left text-[13px] text-muted">What was lost (95 %, Wilson)</caption>
          <thead>
            <tr className="border-b border-edge text-[13px] text-muted">
              <th className="py-0.5 pr-5">Pause</th>
              <th className="py-0.5 pr-5">Bursts</th>
              <th className="py-0.5 pr-5">Lost</th>
              <th className="py-0.5">Range</th>
            </tr>
          </thead>
          <tbody>
            {view.data?.lost.map((at) => (
              <tr key={at.pause_ms} className="border-b border-rule">
                <td className="pr-5 font-mono">{at.pause_ms} ms</td>
                <td className="pr-5">{at.bursts}</td>
                <td className="pr-5">
                  {at.tries.lost} of {at.tries.of}
                </td>
                <td>{at.range ? `${percent(at.range.lo)} to ${percent(at.range.hi)}` : "–"}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

/** How many presses a path loses: counted in the house, added to the counts of the path. */
function LossTest({ gap }: { gap: GapDevice }) {
  const { house, say } = useRoom();
  const params = useRoomPath();
  const edit = useEdit(house.house.id);
  const [sent, setSent] = useState("20");
  const [counted, setCounted] = useState("");
  const device = house.devices.find((known) => known.id === gap.device);
  const path = device?.paths?.[0];
  const [of, seen] = [Number(sent), Number(counted)];
  const usable = counted !== "" && of >= 1 && of <= 20 && seen <= of;
  const range = useQuery({
    queryKey: ["loss", params.path.house, gap.device, of, seen],
    queryFn: () =>
      data(
        client.POST("/api/houses/{house}/rooms/{room}/gap", {
          params,
          body: { device: gap.device, tried: [{ pause_ms: 1000, sent: of, counted: seen }] },
        }),
      ),
    enabled: usable,
  });
  const found = range.data?.lost[0]?.range;
  const keep = () => {
    if (!device || !path) return;
    const tries = path.tries ?? { lost: 0, of: 0 };
    const paths = [
      { ...path, tries: { lost: tries.lost + of - seen, of: tries.of + of } },
      ...(device.paths ?? []).slice(1),
    ];
    edit.mutate([putOver(house, { entity: "device", value: { ...device, paths } })], {
      onSuccess: (saved) => {
        say(saved.title);
        setCounted("");
      },
    });
  };
  return (
    <details className="mt-3 max-w-3xl">
      <summary>How many presses does the path lose?</summary>
      <p className="text-muted">
        Press a key whose effect can be counted, a second apart, and count what the device followed. None lost
        in n: at most 3.84/(n + 3.84) of all presses, with 95 % (Wilson).
      </p>
      <div className="mt-1 flex flex-wrap items-center gap-2">
        <input
          className="field w-16"
          aria-label="Presses that were sent"
          inputMode="numeric"
          maxLength={2}
          value={sent}
          onChange={(event) => setSent(event.target.value.replace(/\D/g, ""))}
        />
        <span>sent,</span>
        <input
          className="field w-16"
          aria-label="Presses that were counted"
          inputMode="numeric"
          maxLength={2}
          value={counted}
          onChange={(event) => setCounted(event.target.value.replace(/\D/g, ""))}
        />
        <span>counted</span>
        {usable && found && (
          <strong data-testid="loss-range">
            {percent(found.lo)} to {percent(found.hi)} are lost
          </strong>
        )}
        <button type="button" className="btn" disabled={!usable || !path || edit.isPending} onClick={keep}>
          Add to the counts of its path
        </button>
      </div>
      {!path && (
        <p className="text-muted">Choose its way of control in Kit first: counts belong to a path.</p>
      )}
      {path?.tries && path.tries.of > 0 && (
        <p className="text-muted">
          So far {path.tries.lost} of {path.tries.of} were lost.
        </p>
      )}
      {edit.error && <ProblemNote text={edit.error.message} />}
    </details>
  );
}
