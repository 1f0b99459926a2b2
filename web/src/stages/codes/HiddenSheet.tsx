import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { TriangleAlert } from "lucide-react";
import { useState } from "react";
import { client, data } from "../../api/client";
import { useKeepProven } from "../../api/queries";
import type { Device, UntriedView } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { ProblemNote } from "../../ui/Problem";
import { Sheet } from "../../ui/Sheet";
import { NameInput } from "./NameInput";
import { heardText } from "./PresetSheet";

const TAP = { presses: 1, hold_ms: 0, gap_ms: 400 };

type Untried = UntriedView["next"][number];

/** A command that was sent, and who understood it. */
interface Sent {
  offer: Untried;
  said: string;
}

/** Searches for keys that no remote has: one key sends the next untried command, one notes what happened. */
export function HiddenSheet({
  devices,
  first,
  onClose,
}: {
  devices: Device[];
  first: string | undefined;
  onClose: () => void;
}) {
  const { deviceId, setDevice, sent, setSent, effect, setEffect, untried, offer, send, note, keep, busy } =
    useSearch(first, devices);
  return (
    <Sheet open onClose={onClose} title="Search for hidden keys" wide>
      <div
        className="grid gap-3"
        onKeyDown={(event) => {
          if (event.target instanceof HTMLInputElement || busy) return;
          if (event.key === "s" && offer && !sent) send.mutate(offer);
          if (event.key === "n" && sent) note.mutate(false);
        }}
      >
        <div className="flex gap-2 border-l-4 border-caution bg-soft px-3 py-2">
          <TriangleAlert aria-hidden size={18} className="mt-0.5 shrink-0 text-caution" />
          <p>
            {untried.data?.caution ??
              "Unknown commands can change service settings. Watch the device, go one step at a time."}
          </p>
        </div>
        <div className="max-w-60">
          <span className="label">Device</span>
          <Choice
            label="Device"
            value={deviceId}
            onChange={(value) => {
              setDevice(value);
              setSent(undefined);
            }}
            options={devices.map((known) => ({ value: known.id, label: known.name }))}
          />
        </div>
        {untried.error && <ProblemNote text={untried.error.message} />}
        {(send.error ?? note.error ?? keep.error) && (
          <ProblemNote text={(send.error ?? note.error ?? keep.error)?.message ?? ""} />
        )}
        {sent ? (
          <WhatHappened sent={sent} effect={effect} setEffect={setEffect} busy={busy} note={note.mutate} />
        ) : offer && untried.data ? (
          <SendNext offer={offer} untried={untried.data} busy={busy} send={send.mutate} />
        ) : (
          untried.data && <p>Every command of its address has been tried.</p>
        )}
        {untried.data && untried.data.next.length > 1 && <Later next={untried.data.next} />}
      </div>
    </Sheet>
  );
}

/** What was sent, and what the device did. */
function WhatHappened({
  sent,
  effect,
  setEffect,
  busy,
  note,
}: {
  sent: Sent;
  effect: string;
  setEffect: (effect: string) => void;
  busy: boolean;
  note: (found: boolean) => void;
}) {
  return (
    <form
      noValidate
      className="border-l-4 border-second bg-soft px-3 py-2"
      onSubmit={(event) => {
        event.preventDefault();
        note(effect.trim() !== "");
      }}
    >
      <p role="status">
        Sent <span className="font-mono text-[13px]">{sent.offer.words}</span>. {sent.said}
      </p>
      <div className="mt-1">
        <span className="label">
          What did the device do? Its name as a function; nothing, and Enter, goes on
        </span>
        <div className="flex gap-2">
          <NameInput label="What did the device do" autoFocus value={effect} onChange={setEffect} />
          <button type="submit" className="btn btn-main" disabled={busy}>
            {effect.trim() === "" ? "Nothing happened" : "Keep it as a function"}
          </button>
        </div>
      </div>
    </form>
  );
}

/** The next untried command. */
function SendNext({
  offer,
  untried,
  busy,
  send,
}: {
  offer: Untried;
  untried: UntriedView;
  busy: boolean;
  send: (offer: Untried) => void;
}) {
  return (
    <div>
      <button type="button" className="btn btn-main" autoFocus disabled={busy} onClick={() => send(offer)}>
        Send the next: <span className="font-mono text-[13px]">{offer.words}</span>
      </button>
      <p className="mt-1 text-[13px] text-muted">
        {offer.why}. {untried.left} are left, {untried.tried} were tried and are never sent again. You can
        stop and go on another day.
      </p>
    </div>
  );
}

/** What comes after it. */
function Later({ next }: { next: Untried[] }) {
  return (
    <ol className="text-[13px] text-muted">
      {next.slice(1, 7).map((one) => (
        <li key={one.words}>
          then <span className="font-mono">{one.words}</span>, {one.why}
        </li>
      ))}
    </ol>
  );
}

/** A search: what is untried, what was sent, and what was noted of it. */
function useSearch(first: string | undefined, devices: Device[]) {
  const { house, room, say } = useRoom();
  const queries = useQueryClient();
  const [deviceId, setDevice] = useState(first ?? devices[0]?.id ?? "");
  const [sent, setSent] = useState<Sent>();
  const [effect, setEffect] = useState("");
  const keep = useKeepProven(house.house.id, deviceId);
  const untried = useQuery({
    queryKey: ["house", house.house.id, "untried", deviceId, house.revision],
    queryFn: () =>
      data(
        client.GET("/api/houses/{house}/devices/{device}/untried", {
          params: { path: { house: house.house.id, device: deviceId } },
        }),
      ),
    enabled: deviceId !== "",
    retry: false,
    placeholderData: (before) => before,
  });
  const offer = untried.data?.next[0];
  const send = useMutation({
    mutationFn: (one: Untried) =>
      data(
        client.POST("/api/houses/{house}/rooms/{room}/try", {
          params: { path: { house: house.house.id, room } },
          body: {
            device: deviceId,
            body: { as: "decoded", message: one.message },
            press: TAP,
          },
        }),
      ),
    onSuccess: (answer, one) => {
      setSent({ offer: one, said: heardText(answer.heard, deviceId) });
      setEffect("");
    },
  });
  const note = useMutation({
    mutationFn: (found: boolean) => {
      if (!sent) throw new Error("Nothing was sent.");
      return data(
        client.POST("/api/houses/{house}/attempts", {
          params: { path: { house: house.house.id } },
          body: {
            device: deviceId,
            function: null,
            what: "search",
            outcome: found ? "found" : "nothing",
            sent: sent.offer.words,
            note: effect.trim() || sent.said,
          },
        }),
      );
    },
    onSuccess: (_, found) => {
      if (found && sent)
        keep.mutate(
          {
            keys: [{ name: effect.trim(), press: TAP, body: { as: "decoded", message: sent.offer.message } }],
            note: `Found by search. ${sent.said}`,
          },
          { onSuccess: (saved) => say(saved.title) },
        );
      setSent(undefined);
      void queries.invalidateQueries({ queryKey: ["house", house.house.id, "untried"] });
      void queries.invalidateQueries({ queryKey: ["house", house.house.id, "attempts"] });
    },
  });
  const busy = send.isPending || note.isPending;
  return { deviceId, setDevice, sent, setSent, effect, setEffect, untried, offer, send, note, keep, busy };
}
