import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, data } from "../../api/client";
import { useCodeSets, useKeepProven } from "../../api/queries";
import type { Device, Heard, PresetKey, SetKey, Tried } from "../../api/types";
import { modelOf, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { ProblemNote } from "../../ui/Problem";
import { forget, useTyped } from "../../ui/draft";
import { Sheet } from "../../ui/Sheet";

const NONE: Tried[] = [];
const NOTHING: Record<string, SetKey> = {};

/** Sets that are tried on a device: what was sent, what it showed, and how far that tells them apart. */
function usePresets(devices: Device[], first: string | undefined) {
  const { house, room } = useRoom();
  const queries = useQueryClient();
  const [deviceId, setDevice] = useState(first ?? devices[0]?.id ?? "");
  const device = devices.find((known) => known.id === deviceId) ?? devices[0];
  const model = device && modelOf(house, device);
  const sets = useCodeSets(house.house.id, house.revision);
  const fitting = (sets.data ?? []).filter((set) => !set.kind || set.kind === model?.kind);
  const [picked, setPicked] = useState<string[]>();
  const chosen = picked ?? fitting.map((set) => set.id);
  const draft = `presets:${deviceId}`;
  const [trials, setTrials] = useTyped<Tried[]>(`${draft}:trials`, NONE);
  const [found, setFound] = useTyped<Record<string, SetKey>>(`${draft}:worked`, NOTHING);
  const worked = new Map(Object.entries(found));
  const [last, setLast] = useState<PresetKey & { said: string }>();
  const keep = useKeepProven(house.house.id, deviceId);
  const ranking = useQuery({
    queryKey: ["presets", house.house.id, chosen.join(), JSON.stringify(trials)],
    queryFn: () =>
      data(
        client.POST("/api/houses/{house}/presets", {
          params: { path: { house: house.house.id } },
          body: { sets: chosen, trials },
        }),
      ),
    enabled: chosen.length > 0,
    placeholderData: (before) => before,
  });
  const keysOf = (set: string) => ranking.data?.keys.find((known) => known.set === set)?.keys ?? [];
  const send = useMutation({
    mutationFn: ({ key }: PresetKey) =>
      data(
        client.POST("/api/houses/{house}/rooms/{room}/try", {
          params: { path: { house: house.house.id, room } },
          body: {
            device: deviceId,
            body: key.body,
            press: key.press ?? { presses: 1, hold_ms: 0, gap_ms: 400 },
          },
        }),
      ),
    onSuccess: (answer, sent) => setLast({ ...sent, said: heardText(answer.heard, deviceId) }),
  });
  const tell = (works: boolean) => {
    if (!last) return;
    const { key, words: sent } = last;
    // Raw timing has no words: it can be tried, but tells no sets apart.
    if (sent) setTrials([...trials, { function: key.name, sent, worked: works }]);
    if (works) setFound({ ...found, [key.name.toLowerCase()]: key });
    const fn = model?.functions.find((known) => known.name.toLowerCase() === key.name.toLowerCase());
    void client
      .POST("/api/houses/{house}/attempts", {
        params: { path: { house: house.house.id } },
        body: {
          device: deviceId,
          function: fn?.id ?? null,
          what: "preset",
          outcome: works ? "worked" : "nothing or the wrong thing",
          sent,
          note: last.said,
        },
      })
      .then(() => queries.invalidateQueries({ queryKey: ["house", house.house.id, "attempts"] }));
    setLast(undefined);
  };
  const begin = (id: string) => {
    setDevice(id);
    setPicked(undefined);
    setLast(undefined);
  };
  /** What was found out of this device is thrown away, or taken over. */
  const anew = () => {
    setTrials(NONE);
    setFound(NOTHING);
    forget(draft);
  };
  return {
    deviceId,
    begin,
    sets,
    fitting,
    chosen,
    setPicked,
    ranking,
    keysOf,
    send,
    last,
    tell,
    worked,
    trials,
    anew,
    keep,
  };
}

type Presets = ReturnType<typeof usePresets>;

/** The sets, the likeliest first. */
function SetTable({ presets: { fitting, chosen, setPicked, ranking } }: { presets: Presets }) {
  return (
    <div className="scrolls">
      <table className="w-full" aria-label="Code sets, the likeliest first">
        <thead>
          <tr className="border-b border-ink text-[13px] text-muted">
            <th scope="col" className="py-1">
              Compare
            </th>
            <th scope="col" className="px-2">
              Set
            </th>
            <th scope="col" className="px-2 text-right">
              Keys
            </th>
            <th scope="col" className="px-2 text-right">
              For it
            </th>
            <th scope="col" className="px-2 text-right">
              Against it
            </th>
          </tr>
        </thead>
        <tbody>
          {[...fitting]
            .sort(
              (a, b) => placeOf(ranking.data?.ranking.sets, a.id) - placeOf(ranking.data?.ranking.sets, b.id),
            )
            .map((set) => {
              const rank = ranking.data?.ranking.sets.find((known) => known.set === set.id);
              return (
                <tr
                  key={set.id}
                  className={`border-b border-rule ${rank && rank.against > 0 ? "text-muted" : ""}`}
                >
                  <td>
                    <input
                      type="checkbox"
                      className="size-6"
                      aria-label={`Compare ${set.name}`}
                      checked={chosen.includes(set.id)}
                      onChange={(event) =>
                        setPicked(
                          event.target.checked
                            ? [...chosen, set.id]
                            : chosen.filter((known) => known !== set.id),
                        )
                      }
                    />
                  </td>
                  <td className="px-2 py-0.5">
                    {set.name}{" "}
                    <span className="text-[13px] text-muted">{set.shipped ? "library" : set.source}</span>
                  </td>
                  <td className="px-2 text-right font-mono text-[13px]">{set.functions.length}</td>
                  <td className="px-2 text-right font-mono text-[13px]">{rank?.fits ?? 0}</td>
                  <td className="px-2 text-right font-mono text-[13px]">{rank?.against ?? 0}</td>
                </tr>
              );
            })}
        </tbody>
      </table>
    </div>
  );
}

/** The press to make next, or the question what the last one did. */
function NextPress({
  presets: { fitting, ranking, keysOf, send, last, tell, worked },
}: {
  presets: Presets;
}) {
  const next = ranking.data?.ranking.next ?? undefined;
  const nextKey =
    next && keysOf(next.set).find(({ key }) => key.name.toLowerCase() === next.function.toLowerCase());
  const best = ranking.data?.ranking.sets[0];
  return last ? (
    <div className="border-l-4 border-second bg-soft px-3 py-2" role="status">
      <p>
        Sent “{last.key.name}”, {last.words ?? "raw timing"}. {last.said} Did the device do it?
      </p>
      <div className="mt-1 flex gap-2">
        <button type="button" className="btn btn-main" autoFocus onClick={() => tell(true)}>
          It worked
        </button>
        <button type="button" className="btn" onClick={() => tell(false)}>
          Nothing, or the wrong thing
        </button>
      </div>
    </div>
  ) : (
    <div className="flex flex-wrap items-center gap-2">
      {next && nextKey && (
        <button
          type="button"
          className="btn btn-main"
          disabled={send.isPending}
          onClick={() => send.mutate(nextKey)}
        >
          Send “{next.function}” as in {fitting.find((set) => set.id === next.set)?.name}
        </button>
      )}
      {next && (
        <span className="text-[13px] text-muted">
          If it works {next.if_works} {next.if_works === 1 ? "set stays" : "sets stay"}, else {next.if_not}.
        </span>
      )}
      {!next && best && best.against === 0 && (
        <span className="flex flex-wrap gap-1">
          {keysOf(best.set)
            .filter(({ key }) => !worked.has(key.name.toLowerCase()))
            .map((one) => (
              <button
                key={one.key.name}
                type="button"
                className="btn"
                disabled={send.isPending}
                onClick={() => send.mutate(one)}
              >
                Send “{one.key.name}”
              </button>
            ))}
        </span>
      )}
    </div>
  );
}

/** Tries code sets on a device, tells them apart with the fewest presses, and takes over what worked. */
export function PresetSheet({
  devices,
  first,
  onClose,
}: {
  devices: Device[];
  first: string | undefined;
  onClose: () => void;
}) {
  const { say } = useRoom();
  const presets = usePresets(devices, first);
  const { deviceId, begin, sets, fitting, ranking, send, worked, trials, anew, keep } = presets;
  const adopt = () =>
    keep.mutate(
      { keys: [...worked.values()], note: "Tried from a code set." },
      {
        onSuccess: (saved) => {
          say(saved.title);
          anew();
          onClose();
        },
      },
    );
  return (
    <Sheet open onClose={onClose} title="Try code sets on a device" wide>
      <div className="grid gap-3">
        <div className="grid grid-cols-2 gap-3">
          <div>
            <span className="label">Device</span>
            <Choice
              label="Device"
              value={deviceId}
              onChange={begin}
              options={devices.map((known) => ({ value: known.id, label: known.name }))}
            />
          </div>
          <p className="self-end text-[13px] text-muted">
            A set often works for some keys only: each is tried, and only what worked is taken over.
          </p>
        </div>
        {fitting.length === 0 && sets.data && (
          <p>No code set is for this kind of device. Import a keymap and keep it as a code set first.</p>
        )}
        <SetTable presets={presets} />
        {ranking.data && <p>{ranking.data.ranking.why}</p>}
        <NextPress presets={presets} />
        {(send.error ?? keep.error ?? ranking.error) && (
          <ProblemNote text={(send.error ?? keep.error ?? ranking.error)?.message ?? ""} />
        )}
        <div className="flex items-center gap-2">
          <button
            type="button"
            className="btn"
            disabled={worked.size === 0 || keep.isPending}
            onClick={adopt}
          >
            Take over the {worked.size} that worked
          </button>
          {(trials.length > 0 || worked.size > 0) && (
            <button type="button" className="btn" onClick={anew}>
              Begin anew
            </button>
          )}
          <button type="button" className="btn" onClick={onClose}>
            Close
          </button>
        </div>
      </div>
    </Sheet>
  );
}

function placeOf(sets: { set: string }[] | undefined, id: string): number {
  const at = sets?.findIndex((known) => known.set === id) ?? -1;
  return at < 0 ? 999 : at;
}

/** What the rehearsal room did, where it shows. */
export function heardText(heard: Heard[], device: string): string {
  const own = heard.find((one) => one.device === device);
  if (!own) return "The rehearsal room shows no reaction.";
  return own.outcome.did === "ignored"
    ? `The rehearsal room understood “${own.name}” but ignored it: ${own.outcome.why}.`
    : `The rehearsal room took it for “${own.name}”: ${own.outcome.what}.`;
}
