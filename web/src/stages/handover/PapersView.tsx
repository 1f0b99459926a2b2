import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, data } from "../../api/client";
import { putOver, take } from "../../api/entities";
import { useEdit } from "../../api/queries";
import type { Order, OrderLine, OrderState } from "../../api/types";
import { useRoom } from "../../shell/context";
import { ProblemNote } from "../../ui/Problem";
import { dayTime } from "../../ui/when";
import { Waiting } from "../../ui/Waiting";

const CHAPTERS = [
  ["cautions", "Cautions"],
  ["devices", "Devices"],
  ["plan", "The room"],
  ["wiring", "Wiring"],
  ["control", "Ways of control"],
  ["codes", "Codes"],
  ["activities", "Activities and steps"],
  ["matrix", "Switch matrix"],
  ["cues", "Cues"],
  ["surfaces", "Surfaces"],
  ["measurements", "Measured times"],
  ["tests", "Tests"],
  ["open", "Open points"],
] as const;

/** Papers: what nobody has to write, handovers, what has changed since, and what is still missing. */
export function PapersView() {
  const { house, room } = useRoom();
  const [here, setHere] = useState(true);
  const [without, setWithout] = useState<string[]>([]);
  const [secrets, setSecrets] = useState(false);
  const at = (paper: string, save: boolean) => {
    const query = new URLSearchParams();
    if (here && paper !== "orders") query.set("room", room);
    if (paper === "record" && without.length > 0) query.set("without", without.join(","));
    if (paper === "record" && secrets) query.set("secrets", "true");
    if (save) query.set("save", "true");
    return `/api/houses/${house.house.id}/papers/${paper}?${query}`;
  };
  const name = house.rooms.find((known) => known.id === room)?.name ?? "this room";
  return (
    <div className="mt-3 grid gap-x-10 gap-y-6 xl:grid-cols-2">
      <section aria-label="Papers">
        <h3 className="text-[16px]">Papers</h3>
        <p className="text-muted">
          Each opens as a page of its own that prints on A4; the browser’s print makes a PDF of it, with
          house, room, date, revision and page on every page.
        </p>
        <label className="my-2 flex items-center gap-2">
          <input type="checkbox" checked={here} onChange={(event) => setHere(event.target.checked)} />
          Only {name}
        </label>
        <ul>
          {(
            [
              ["record", "As-built record", "everything that the next programmer needs"],
              ["client", "Page for the family", "one sheet a room, in their words"],
              ["orders", "Order list", "what is still missing in the house"],
            ] as const
          ).map(([paper, title, what]) => (
            <li key={paper} className="flex flex-wrap items-center gap-x-3 border-b border-rule py-1.5">
              <span className="min-w-40 font-semibold">{title}</span>
              <span className="text-muted">{what}</span>
              <span className="ml-auto flex gap-2">
                <a className="btn" href={at(paper, false)} target="_blank" rel="noreferrer">
                  Open and print
                </a>
                <a className="btn" href={at(paper, true)} download={`${paper}.html`}>
                  Save
                </a>
              </span>
            </li>
          ))}
        </ul>
        <p className="mt-2 text-muted">
          Labels and step sheets are where they are made: Surfaces, Labels; Sequences, Steps.
        </p>
        <details className="mt-2">
          <summary>Chapters of the record</summary>
          <div className="mt-1 grid grid-cols-2 gap-x-4 sm:grid-cols-3">
            {CHAPTERS.map(([chapter, title]) => (
              <label key={chapter} className="flex items-center gap-2 py-0.5">
                <input
                  type="checkbox"
                  checked={!without.includes(chapter)}
                  onChange={(event) =>
                    setWithout(
                      event.target.checked ? without.filter((one) => one !== chapter) : [...without, chapter],
                    )
                  }
                />
                {title}
              </label>
            ))}
          </div>
          <label className="mt-1 flex items-center gap-2 text-caution">
            <input type="checkbox" checked={secrets} onChange={(event) => setSecrets(event.target.checked)} />
            With keys, passwords and accounts
          </label>
        </details>
        <Stays />
      </section>
      <Handovers />
      <Orders />
    </div>
  );
}

/** What stays in the house when the laptop has left. */
function Stays() {
  const { house } = useRoom();
  const edit = useEdit(house.house.id);
  const [address, setAddress] = useState(house.house.stays ?? "");
  const save = (stays: string | null) =>
    edit.mutate([putOver(house, { entity: "house", value: { ...house.house, stays } })]);
  return (
    <form
      className="mt-4"
      onSubmit={(event) => {
        event.preventDefault();
        save(address.trim() === "" ? null : address.trim());
      }}
    >
      <h3 className="text-[15px]">The machine that stays</h3>
      <p className="text-muted">
        {house.house.stays
          ? `Surfaces are served by ${house.house.stays}: the family depends on that machine, its power and the network. Papers carry codes to be scanned.`
          : "Nothing stays: phones open no surface once the laptop has left, and papers carry no codes to be scanned. Name the small machine that serves them, as phones reach it."}
      </p>
      <div className="mt-1 flex flex-wrap gap-2">
        <input
          className="field w-60"
          aria-label="Address of the machine that stays"
          placeholder="192.0.2.40:7311"
          maxLength={80}
          value={address}
          onChange={(event) => setAddress(event.target.value)}
        />
        <button type="submit" className="btn" disabled={edit.isPending}>
          Save
        </button>
      </div>
      {edit.error && <ProblemNote text={edit.error.message} />}
    </form>
  );
}

/** Handovers: numbered, dated, kept unchanged; what has changed since. */
function Handovers() {
  const { house, room, say } = useRoom();
  const id = house.house.id;
  const queries = useQueryClient();
  const key = ["house", id, "handovers"];
  const all = useQuery({
    queryKey: key,
    queryFn: () => data(client.GET("/api/houses/{house}/handovers", { params: { path: { house: id } } })),
  });
  const [note, setNote] = useState("");
  const [here, setHere] = useState(false);
  const [compared, setCompared] = useState<number>();
  const hand = useMutation({
    mutationFn: () =>
      data(
        client.POST("/api/houses/{house}/handovers", {
          params: { path: { house: id } },
          body: { note: note.trim(), rooms: here ? [room] : [] },
        }),
      ),
    onSuccess: (made) => {
      setNote("");
      say(`Handover ${made.number} is kept`);
      void queries.invalidateQueries({ queryKey: key });
      void queries.invalidateQueries({ queryKey: ["house", id, "notes"] });
    },
  });
  const roomName = (one: string) =>
    house.rooms.find((known) => known.id === one)?.name ?? "a room that is gone";
  return (
    <section aria-label="Handovers">
      <h3 className="text-[16px]">Handovers</h3>
      <p className="text-muted">
        A handover keeps the house, its tests and its papers as they are, under a number, and never changes.
      </p>
      <form
        className="my-2 flex flex-wrap items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          hand.mutate();
        }}
      >
        <input
          className="field min-w-56 flex-1"
          aria-label="What is said with the handover"
          placeholder="What is said with it (may be empty)"
          maxLength={2000}
          value={note}
          onChange={(event) => setNote(event.target.value)}
        />
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={here} onChange={(event) => setHere(event.target.checked)} />
          only {roomName(room)}
        </label>
        <button type="submit" className="btn btn-main" disabled={hand.isPending}>
          {hand.isPending ? "Papers are made …" : "Hand over"}
        </button>
      </form>
      {hand.error && <ProblemNote text={hand.error.message} />}
      {!all.data && <Waiting what="the handovers" error={all.error} />}
      {all.data?.length === 0 && <p className="text-muted">This house has not been handed over yet.</p>}
      <ul>
        {all.data?.map((one) => (
          <li key={one.number} className="border-b border-rule py-1.5">
            <div className="flex flex-wrap items-center gap-x-3">
              <strong>Handover {one.number}</strong>
              <span className="text-muted">
                {dayTime(one.at)}, {one.who}, revision {one.revision}
                {one.rooms.length > 0 && `, ${one.rooms.map(roomName).join(", ")}`}
              </span>
              <span className="ml-auto flex gap-3">
                {one.papers.map((paper) => (
                  <a
                    key={paper}
                    className="link"
                    href={`/api/houses/${id}/papers/${paper}?handover=${one.number}`}
                    target="_blank"
                    rel="noreferrer"
                  >
                    {PAPER[paper] ?? paper}
                  </a>
                ))}
                <button
                  type="button"
                  className="link"
                  aria-expanded={compared === one.number}
                  onClick={() => setCompared(compared === one.number ? undefined : one.number)}
                >
                  Today against it
                </button>
              </span>
            </div>
            {one.note && <p>{one.note}</p>}
            {compared === one.number && <Compared number={one.number} />}
          </li>
        ))}
      </ul>
    </section>
  );
}

const PAPER: Record<string, string> = { record: "Record", client: "Family", orders: "Orders" };

/** What is another thing today. */
export function Compared({ number }: { number: number }) {
  const { house } = useRoom();
  const id = house.house.id;
  const found = useQuery({
    queryKey: ["house", id, "compare", number, house.revision],
    queryFn: () =>
      data(
        client.GET("/api/houses/{house}/compare", {
          params: { path: { house: id }, query: { from: number } },
        }),
      ),
  });
  if (!found.data) return <Waiting what="the comparison" error={found.error} />;
  if (found.data.length === 0) return <p className="mt-1 text-muted">Nothing has changed since.</p>;
  return (
    <ul className="mt-1 list-disc pl-5" aria-label={`Today against handover ${number}`}>
      {found.data.map((one, at) => (
        <li key={at} className="wrap-break-word">
          {one.text}
        </li>
      ))}
    </ul>
  );
}

const STATES: readonly (readonly [OrderState, string])[] = [
  ["wanted", "wanted"],
  ["ordered", "ordered"],
  ["fitted", "fitted"],
];

/** What is still missing: what was written down, and what the house asks for. */
function Orders() {
  const { house, room } = useRoom();
  const id = house.house.id;
  const edit = useEdit(id);
  const [what, setWhat] = useState("");
  const [quantity, setQuantity] = useState("1");
  const all = useQuery({
    queryKey: ["house", id, "orders", house.revision],
    queryFn: () => data(client.GET("/api/houses/{house}/orders", { params: { path: { house: id } } })),
    placeholderData: (before) => before,
  });
  const put = (value: Order) => edit.mutate([putOver(house, { entity: "order", value })]);
  const add = (line: Pick<OrderLine, "room" | "what" | "quantity" | "why">) =>
    put({
      id: crypto.randomUUID(),
      room: line.room ?? null,
      what: line.what,
      quantity: line.quantity,
      state: "wanted",
      note: line.why,
    });
  return (
    <section aria-label="Order list" className="xl:col-span-2">
      <h3 className="text-[16px]">Order list</h3>
      {!all.data && <Waiting what="the order list" error={all.error} />}
      {all.data?.length === 0 && <p className="text-muted">Nothing is missing.</p>}
      <ul>
        {all.data?.map((line) => {
          const own = house.orders.find((known) => known.id === line.order);
          const where = house.rooms.find((known) => known.id === line.room)?.name ?? "the house";
          return (
            <li
              key={line.order ?? `${line.room} ${line.what}`}
              className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule py-1"
            >
              <span className="w-10 text-right font-mono">{line.quantity} ×</span>
              <span className="font-semibold">{line.what}</span>
              <span className="text-muted">
                {where}
                {line.why && `: ${line.why}`}
              </span>
              <span className="ml-auto flex items-center gap-2">
                {own ? (
                  <>
                    <select
                      className="field w-28"
                      aria-label={`State of ${line.what}`}
                      value={own.state}
                      onChange={(event) => put({ ...own, state: event.target.value as OrderState })}
                    >
                      {STATES.map(([state, label]) => (
                        <option key={state} value={state}>
                          {label}
                        </option>
                      ))}
                    </select>
                    <button
                      type="button"
                      className="link"
                      onClick={() => edit.mutate([take(house, "order", own.id)])}
                    >
                      Remove
                    </button>
                  </>
                ) : (
                  <button type="button" className="link" onClick={() => add(line)}>
                    Write it down
                  </button>
                )}
              </span>
            </li>
          );
        })}
      </ul>
      <form
        className="mt-2 flex flex-wrap gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (what.trim()) add({ room, what: what.trim(), quantity: Number(quantity) || 1, why: "" });
          setWhat("");
          setQuantity("1");
        }}
      >
        <input
          className="field w-16"
          aria-label="How many"
          inputMode="numeric"
          maxLength={3}
          value={quantity}
          onChange={(event) => setQuantity(event.target.value)}
        />
        <input
          className="field w-72"
          aria-label="What is missing"
          placeholder="What is missing here"
          maxLength={80}
          value={what}
          onChange={(event) => setWhat(event.target.value)}
        />
        <button type="submit" className="btn" disabled={!what.trim()}>
          Write it down
        </button>
      </form>
      {edit.error && <ProblemNote text={edit.error.message} />}
    </section>
  );
}
