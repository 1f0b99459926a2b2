import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, data } from "../../api/client";
import { put, take } from "../../api/entities";
import { useEdit } from "../../api/queries";
import type { DescribedProtocol, Looked, Proposal } from "../../api/types";
import { useRoom } from "../../shell/context";
import { forget, useTyped } from "../../ui/draft";
import { ProblemNote } from "../../ui/Problem";
import { Sheet } from "../../ui/Sheet";
import { CapturesList, type NamedCapture } from "./CapturesList";
import { aroundMistake, drawnOf, fieldWords, labelled } from "./protocols";
import { useSettled } from "./useSettled";
import { Waveform } from "./Waveform";

/** No capture yet: one list, so that it is the same each time. */
const NONE: NamedCapture[] = [];

/** Protocols that are described here: proposed from captures, or typed in IRP, and kept with the house. */
export function ProtocolsSheet({ onClose }: { onClose: () => void }) {
  const { house, say } = useRoom();
  const draft = `protocol:${house.house.id}`;
  const [name, setName] = useTyped(`${draft}:name`, "");
  const [irp, setIrp] = useTyped(`${draft}:irp`, "");
  const [note, setNote] = useTyped(`${draft}:note`, "");
  const [captures, setCaptures] = useTyped<NamedCapture[]>(`${draft}:captures`, NONE);
  const edit = useEdit(house.house.id);
  const propose = useMutation({
    mutationFn: () =>
      data(client.POST("/api/protocols/propose", { body: { captures: captures.map((own) => own.text) } })),
    onSuccess: (found) => setIrp(found.irp),
  });
  const { look, trouble } = useLook(name, irp);
  const looked = look?.looked ?? undefined;
  const keep = () => {
    const value: DescribedProtocol = { id: crypto.randomUUID(), name: name.trim(), irp, note: note.trim() };
    edit.mutate([put({ entity: "protocol", value }, undefined)], {
      onSuccess: (saved) => {
        forget(draft);
        setName("");
        setIrp("");
        setNote("");
        setCaptures(NONE);
        propose.reset();
        say(saved.title);
      },
    });
  };
  return (
    <Sheet open onClose={onClose} title="Protocols of this house" wide>
      <Kept />
      <h3 className="mt-4 text-[15px]">Describe a protocol</h3>
      <p className="text-[13px] text-muted">
        For a remote whose captures are kept as raw timing only. Captures of three or more of its keys are
        enough for a proposal; whoever knows it writes it in IRP, the open notation of infrared protocols.
        Once kept, captures are read with it as with those that are built in.
      </p>
      <CapturesList captures={captures} onCaptures={setCaptures} />
      <p className="mt-2 flex flex-wrap items-center gap-3">
        <button
          type="button"
          className="btn"
          disabled={captures.length < 3 || propose.isPending}
          onClick={() => propose.mutate()}
        >
          Propose a description
        </button>
        {captures.length < 3 && (
          <span className="text-[13px] text-muted">{captures.length} of 3 captures of different keys</span>
        )}
      </p>
      {propose.error && <ProblemNote text={propose.error.message} />}
      {propose.data && <Found found={propose.data} />}
      <form
        noValidate
        className="mt-3 grid gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (looked) keep();
        }}
      >
        <div className="flex flex-wrap gap-3">
          <label className="block">
            <span className="label">Name</span>
            <input
              className="field w-44"
              maxLength={24}
              value={name}
              placeholder="brass-lantern"
              onChange={(event) => setName(event.target.value)}
            />
          </label>
          <label className="block min-w-0 flex-1">
            <span className="label">Note: which remote it is from</span>
            <input
              className="field w-full"
              maxLength={400}
              value={note}
              onChange={(event) => setNote(event.target.value)}
            />
          </label>
        </div>
        <label className="block">
          <span className="label">Description in IRP</span>
          <textarea
            className="field h-20 w-full py-1.5 font-mono text-[13px] leading-snug"
            spellCheck={false}
            value={irp}
            aria-invalid={irp.trim() !== "" && look?.problem != null}
            placeholder="{38k,560}<1,-1|1,-3>(16,-8,D:8,F:8,~F:8,1,^108m)*[D:0..255,F:0..255]"
            onChange={(event) => setIrp(event.target.value)}
          />
        </label>
        {irp.trim() !== "" && look?.problem != null && (
          <Mistake irp={irp} problem={look.problem} at={look.at} />
        )}
        {trouble && <ProblemNote text={trouble} />}
        {looked && <Drawn name={name.trim() || "described"} looked={looked} />}
        {edit.error && <ProblemNote text={edit.error.message} />}
        <p>
          <button type="submit" className="btn btn-main" disabled={!looked || edit.isPending}>
            Keep with the house
          </button>
        </p>
      </form>
    </Sheet>
  );
}

/** What a description says, a little after it was typed. A name that is not given yet is no mistake of the description. */
function useLook(name: string, irp: string) {
  const settled = useSettled(irp, 200);
  const called = useSettled(name.trim(), 200) || "described";
  const look = useQuery({
    queryKey: ["described", called, settled],
    queryFn: () => data(client.POST("/api/protocols/look", { body: { name: called, irp: settled } })),
    enabled: settled.trim() !== "",
    placeholderData: keepPreviousData,
  });
  const typed = settled.trim() !== "";
  return { look: typed ? look.data : undefined, trouble: typed ? look.error?.message : undefined };
}

/** The protocols that are there: kept, or brought along by codes. */
function Kept() {
  const { house, say } = useRoom();
  const edit = useEdit(house.house.id);
  const all = useQuery({
    queryKey: ["house", house.house.id, "protocols", house.revision],
    queryFn: () =>
      data(client.GET("/api/houses/{house}/protocols", { params: { path: { house: house.house.id } } })),
    placeholderData: keepPreviousData,
  });
  if (!all.data) return null;
  if (all.data.length === 0) {
    return (
      <p className="text-muted">
        None is described yet. What is built in reads most remotes without any of it.
      </p>
    );
  }
  return (
    <div className="scrolls">
      <table className="w-full" aria-label="Protocols that are described">
        <thead>
          <tr className="border-b border-ink text-[13px] text-muted">
            {["Name", "Fields", "Codes", "Note"].map((head) => (
              <th key={head} scope="col" className="py-1 pr-3 text-left font-medium">
                {head}
              </th>
            ))}
            <th />
          </tr>
        </thead>
        <tbody>
          {all.data.map((own) => (
            <tr key={own.written} className="border-b border-rule align-top">
              <td className="py-1 pr-3">
                <strong>{own.name}</strong>
                <span className="block font-mono text-[12px] break-all text-muted">{own.irp}</span>
              </td>
              <td className="py-1 pr-3 text-[13px]">{fieldWords(own.looked as Looked)}</td>
              <td className="py-1 pr-3 text-right">{own.codes}</td>
              <td className="py-1 pr-3 text-[13px]">{own.id ? own.note : "brought along by codes"}</td>
              <td className="py-1 text-right">
                {own.id ? (
                  <button
                    type="button"
                    className="link"
                    aria-label={`Remove ${own.name}`}
                    onClick={() => {
                      const { id } = own;
                      if (id)
                        edit.mutate((now) => [take(now, "protocol", id)], {
                          onSuccess: (saved) => say(saved.title),
                        });
                    }}
                  >
                    Remove
                  </button>
                ) : (
                  <button
                    type="button"
                    className="link"
                    aria-label={`Keep ${own.name}`}
                    onClick={() => {
                      const value = { id: crypto.randomUUID(), name: own.name, irp: own.irp, note: "" };
                      edit.mutate([put({ entity: "protocol", value }, undefined)], {
                        onSuccess: (saved) => say(saved.title),
                      });
                    }}
                  >
                    Keep it
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {edit.error && <ProblemNote text={edit.error.message} />}
    </div>
  );
}

/** What was found in captures, and how well it explains them. */
function Found({ found }: { found: Proposal }) {
  return (
    <ul className="mt-2 border-l-4 border-good bg-soft px-3 py-2 text-[13.5px]" aria-label="What was found">
      {found.words.map((words) => (
        <li key={words}>{words}</li>
      ))}
    </ul>
  );
}

/** Where a description goes wrong. */
function Mistake({ irp, problem, at }: { irp: string; problem: string; at: number | null | undefined }) {
  const around = aroundMistake(irp, { at: at ?? null });
  return (
    <div data-testid="mistake">
      <ProblemNote text={problem} />
      {around && (
        <p className="mt-1 font-mono text-[13px] break-all">
          {around[0]}
          <mark className="bg-stop text-paper">{around[1]}</mark>
          {around[2]}
        </p>
      )}
    </div>
  );
}

/** A description as a frame, with its fields. */
function Drawn({ name, looked }: { name: string; looked: Looked }) {
  const own = labelled(looked);
  const [open, setOpen] = useState(false);
  return (
    <div data-testid="described-frame">
      <p className="text-[13px]">
        {fieldWords(own)}. Carrier {(own.carrier_hz / 1000).toFixed(1)} kHz.{" "}
        {own.check_bits > 0 ? `${own.check_bits} bits check others.` : "Nothing checks its bits."}{" "}
        {own.least_frames > 1 && `A press has ${own.least_frames} frames. `}
        {own.held && `A held key sends ${own.held.length} durations. `}
        <button type="button" className="link text-[13px]" onClick={() => setOpen(!open)}>
          {open ? "Hide its durations" : "Its durations"}
        </button>
      </p>
      <Waveform drawn reading={drawnOf(name, looked)} />
      {open && <p className="font-mono text-[12px] break-all">{own.frame.join(" ")} µs</p>}
    </div>
  );
}
