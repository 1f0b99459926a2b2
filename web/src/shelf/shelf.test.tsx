// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Shelf, ShelfLine, Stages } from "../api/types";
import { house, show } from "../testing/house";
import { isBehind, useShelf } from "./api";
import { Backups } from "./Backups";
import { CourseLine } from "./CourseLine";
import { HouseCard } from "./HouseCard";
import { HouseTable } from "./HouseTable";
import { ImportSite } from "./ImportSite";
import { Removed } from "./Removed";
import { StartHouse } from "./StartHouse";
import { ago, courseWords, houseCount, needs } from "./words";

const none = () => undefined;
const share = (done: number, total: number) => ({ done, total });
const stages: Stages = {
  kit: share(2, 4),
  codes: share(3, 3),
  sequences: share(0, 1),
  cues: share(0, 0),
  surfaces: share(1, 2),
  rehearse: share(0, 3),
  handover: share(0, 0),
};

const line = (part: Partial<ShelfLine> = {}): ShelfLine => ({
  id: "h",
  name: "Teal House",
  note: "two living rooms",
  client: "The Ottars",
  revision: 4,
  edited_at: "2026-11-28T10:00:00Z",
  as_of: 4,
  open_calls: 0,
  summary: { rooms: [{ id: "den", name: "Den", stages }], stages, worst: null, worst_room: null },
  ...part,
});

const daily: Shelf["daily"] = { folder: "", keep: 14, secrets: true };

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("words of the shelf", () => {
  it("count houses, and say how long ago something was", () => {
    expect([houseCount(0), houseCount(1), houseCount(4), houseCount(31)]).toEqual([
      "No house",
      "One house",
      "Four houses",
      "31 houses",
    ]);
    const now = new Date("2026-11-28T12:00:00Z");
    const at = (text: string) => ago(text, now);
    expect(at("2026-11-28T11:59:40Z")).toBe("just now");
    expect(at("2026-11-28T11:20:00Z")).toBe("40 min ago");
    expect(at("2026-11-28T09:00:00Z")).toBe("3 h ago");
    expect(at("2026-11-27T09:00:00Z")).toBe("yesterday");
    expect(at("2026-11-05T09:00:00Z")).toBe("5 Nov");
    expect(at("2025-11-05T09:00:00Z")).toBe("5 Nov 2025");
  });

  it("say what a house needs: what stops it, else its next step, else the worst, else nothing", () => {
    const worst = { weight: "stops" as const, title: "Code missing", text: "A key has no code.", count: 3 };
    const next = { step: 3, of: 6, text: "Two cables are missing", stage: "kit", device: null };
    const own = (part: object) => line({ summary: { ...line().summary, ...part } as ShelfLine["summary"] });
    expect(needs(own({ worst, worst_room: "den" }))).toMatchObject({
      text: "Code missing in Den, and 2 more that matter as much",
      tone: "stop",
    });
    const young = { rooms: [{ id: "den", name: "Den", stages, next }] };
    expect(needs(own(young))).toMatchObject({
      text: "next in Den",
      more: "Two cables are missing",
      tone: "next",
    });
    const caution = { ...worst, weight: "caution" as const, count: 1 };
    expect(needs(own({ worst: caution, worst_room: "den" }))).toMatchObject({
      text: "Code missing in Den",
      tone: "caution",
    });
    expect(needs(line())).toMatchObject({ text: "nothing to mend", tone: "good" });
    expect(needs(own({ rooms: [] }))).toMatchObject({ text: "next: a room" });
    expect(needs(line({ summary: null }))).toBeUndefined();
  });

  it("tell a course line to those who do not see it", () => {
    show(house(), <CourseLine stages={stages} />);
    expect(screen.getByRole("img").getAttribute("aria-label")).toBe(courseWords(stages));
    expect(courseWords(stages)).toBe(
      "Kit: 2 of 4, Codes: 3 of 3, Sequences: 0 of 1, Cues: nothing yet, Surfaces: 1 of 2, Rehearse: 0 of 3, Handover: nothing yet",
    );
  });
});

describe("the houses", () => {
  it("stand one a line, with a line that is behind its house marked", () => {
    expect(isBehind({ houses: [line({ as_of: 3 })], removed: [], daily, last: {} } as unknown as Shelf)).toBe(
      true,
    );
    show(house(), <HouseTable houses={[line({ as_of: 3 })]} say={none} fail={none} />);
    expect(screen.getByRole("link", { name: "Teal House" }).getAttribute("href")).toBe("/houses/h");
    expect(screen.getByText("The Ottars · two living rooms, 1 room")).toBeDefined();
    expect(screen.getByText("as of revision 3; being brought up to date")).toBeDefined();
  });

  it("are read again at once when one is renamed", async () => {
    const view = house();
    function Reader() {
      return <p>{useShelf().data?.houses.length} houses</p>;
    }
    const page = (
      <>
        <Reader />
        <HouseCard house="h" onClose={none} say={none} />
      </>
    );
    const shelf = { houses: [line()], removed: [], daily, last: {} };
    const seen = show(view, page, { answers: { "/api/shelf": shelf } });
    await screen.findByText("1 houses");
    const read = () => seen.asked.filter((asked) => asked.path === "/api/shelf").length;
    const before = read();
    fireEvent.change(screen.getByLabelText("Name"), { target: { value: "Holiday house" } });
    fireEvent.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(read()).toBe(before + 1));
  });

  it("that were removed are put back, and a failure is told", async () => {
    const removed = [
      { id: "h", name: "Teal House", removed_at: "2026-11-01T00:00:00Z", kept_until: "2026-12-01T00:00:00Z" },
    ];
    const said: string[] = [];
    const made = { house: "h", name: "Teal House", room: null, said: "Teal House is back, as it was." };
    show(house(), <Removed removed={removed} say={(text) => said.push(text)} fail={none} />, {
      answers: { "/removed/h": made },
    });
    fireEvent.click(screen.getByRole("button", { name: "Put Teal House back" }));
    await waitFor(() => expect(said).toEqual(["Teal House is back, as it was."]));
    cleanup();
    show(house(), <Removed removed={removed} say={none} fail={(text) => said.push(text)} />, {
      refuse: "Kept too long.",
    });
    fireEvent.click(screen.getByRole("button", { name: "Put Teal House back" }));
    await waitFor(() => expect(said).toContain("Kept too long."));
  });
});

describe("a new house", () => {
  const points = [
    { point: "cinema", name: "Cinema with projector and screen", about: "projector, screen" },
    { point: "empty", name: "Empty room", about: "" },
  ];
  const open = (options: Parameters<typeof show>[2] = {}) => {
    const started = vi.fn();
    const seen = show(house(), <StartHouse open onClose={none} onStarted={started} />, {
      answers: { "/starting-points": points, ...options.answers },
      ...(options.refuse ? { refuse: options.refuse } : {}),
    });
    return { seen, started };
  };
  const type = (label: string, value: string) =>
    fireEvent.change(screen.getByLabelText(label), { target: { value } });

  it("is started with its rooms; a room without a name has the usual one", async () => {
    const made = { house: "n", name: "Ness End", room: "r", said: "Ness End is started." };
    const { seen, started } = open({ answers: { "/houses": made } });
    type("Name of the house", "Ness End");
    fireEvent.click(screen.getByRole("button", { name: "Another room" }));
    type("Name of room 2", "Larder");
    expect(await screen.findByText("with projector, screen")).toBeDefined();
    fireEvent.click(screen.getByRole("button", { name: "Start the house" }));
    await waitFor(() => expect(started).toHaveBeenCalledWith("n", "r"));
    expect(seen.asked.find((asked) => asked.method === "POST")?.body).toEqual({
      name: "Ness End",
      client: "",
      note: "",
      rooms: [
        { name: "Cinema", start: "cinema" },
        { name: "Larder", start: "empty" },
      ],
    });
  });

  it("wants a name, and keeps what was typed where the server refuses it", async () => {
    open({ refuse: "Name of the house: give it a shorter one." });
    fireEvent.click(screen.getByRole("button", { name: "Start the house" }));
    expect(screen.getByText("Name of the house: give it a name.")).toBeDefined();
    type("Name of the house", "Long");
    fireEvent.click(screen.getByRole("button", { name: "Start the house" }));
    expect(await screen.findByText("Name of the house: give it a shorter one.")).toBeDefined();
    cleanup();
    open();
    expect(screen.getByLabelText<HTMLInputElement>("Name of the house").value).toBe("Long");
  });
});

describe("files", () => {
  const send = (label: string) =>
    fireEvent.change(screen.getByLabelText(label), {
      target: { files: [new File(["{}"], "house.kdune.json")] },
    });
  /** A stand-in for requests that carry a file. */
  const answering = (answers: Record<string, unknown>, status = 200) => {
    const asked: string[] = [];
    vi.stubGlobal("fetch", async (path: string) => {
      asked.push(path);
      const known = Object.entries(answers).find(([end]) => path.includes(end));
      return Response.json(known?.[1] ?? { detail: "Not known." }, { status });
    });
    return asked;
  };
  const preview = {
    name: "Ness End",
    rooms: ["Den"],
    devices: 3,
    codes: 9,
    activities: 1,
    secrets: false,
    there: null,
  };

  it("of a new house are put on the shelf after a look", async () => {
    const taken = vi.fn();
    show(house(), <ImportSite open onClose={none} onTaken={taken} say={none} />);
    const asked = answering({
      preview,
      "how=new": { house: "n", name: "Ness End", room: "r", said: "On the shelf." },
    });
    send("Site file");
    expect(await screen.findByText(/1 room \(Den\), 3 devices, 9 codes, 1 activities/)).toBeDefined();
    fireEvent.click(screen.getByRole("button", { name: "Put it on the shelf" }));
    await waitFor(() => expect(taken).toHaveBeenCalledWith("n", "r"));
    expect(asked).toEqual(["/api/shelf/imports/preview", "/api/shelf/imports?how=new"]);
  });

  it("of a house that is there say what they would change; of a removed one, that it is put back first", async () => {
    show(house(), <ImportSite open onClose={none} onTaken={none} say={none} />);
    const there = { id: "n", name: "Ness End", removed: false, adds: 1, changes: 2, removes: 3 };
    answering({ preview: { ...preview, there } });
    send("Site file");
    expect(await screen.findByText(/would add 1, change 2 and remove 3 things/)).toBeDefined();
    expect(screen.getByRole("button", { name: "In place of it" })).toBeDefined();
    cleanup();
    show(house(), <ImportSite open onClose={none} onTaken={none} say={none} />);
    answering({ preview: { ...preview, there: { ...there, removed: true } } });
    send("Site file");
    expect(await screen.findByText(/Put “Ness End” back first/)).toBeDefined();
    expect(screen.queryByRole("button", { name: "In place of it" })).toBeNull();
  });

  it("that take long show that they are read, and can be given up", async () => {
    show(house(), <ImportSite open onClose={none} onTaken={none} say={none} />);
    vi.stubGlobal(
      "fetch",
      (_: string, { signal }: { signal: AbortSignal }) =>
        new Promise((_answer, failed) =>
          signal.addEventListener("abort", () => failed(new DOMException("aborted", "AbortError"))),
        ),
    );
    send("Site file");
    expect(await screen.findByRole("progressbar", { name: "Reading the file …" })).toBeDefined();
    fireEvent.click(screen.getByRole("button", { name: "Cancel" }));
    expect(await screen.findByText(/^Cancelled\./)).toBeDefined();
    expect(screen.queryByRole("progressbar")).toBeNull();
  });

  it("that are none are refused with the server’s sentence", async () => {
    show(house(), <ImportSite open onClose={none} onTaken={none} say={none} />);
    answering({ preview: { detail: "This is a picture." } }, 422);
    send("Site file");
    expect(await screen.findByText("This is a picture.")).toBeDefined();
  });

  it("of a backup say what they would replace, and restore it", async () => {
    const said: string[] = [];
    const houses = [{ id: "n", name: "Ness End", revision: 3, removed: false }];
    const manifest = {
      format: "",
      version: 1,
      made_at: new Date().toISOString(),
      secrets: false,
      houses,
      sums: {},
    };
    show(house(), <Backups open onClose={none} daily={daily} last={{}} say={(text) => said.push(text)} />);
    answering({ "restore/preview": { manifest, replaces: houses }, "/api/restore": manifest });
    send("Backup file");
    expect(await screen.findByText("Made just now, with Ness End, without keys.")).toBeDefined();
    expect(screen.getByText(/As they are here now these are lost: Ness End/)).toBeDefined();
    fireEvent.click(screen.getByRole("button", { name: "Restore" }));
    await waitFor(() => expect(said).toEqual(["1 house is as in the backup."]));
  });

  it("of the day go to a folder, and what is wrong with it is told", async () => {
    const seen = show(house(), <Backups open onClose={none} daily={daily} last={{}} say={none} />, {
      refuse: "Name the whole path of the folder.",
    });
    fireEvent.change(screen.getByLabelText(/Folder on this computer/), { target: { value: "backups" } });
    fireEvent.click(screen.getByRole("button", { name: "Set up" }));
    expect(await screen.findByText("Name the whole path of the folder.")).toBeDefined();
    expect(seen.asked[0]?.body).toEqual({ folder: "backups", keep: 14, secrets: true });
  });
});
