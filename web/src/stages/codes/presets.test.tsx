// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { device, house, model, show } from "../../testing/house";
import { heardText, PresetSheet } from "./PresetSheet";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const key = (name: string, command: number) => ({
  words: `nec address=1 command=${command}`,
  key: { name, press: { presses: 1 }, body: { as: "decoded" } },
});

const sets = [
  {
    id: "old",
    name: "Old sets",
    kind: "receiver",
    source: "a file",
    shipped: false,
    functions: ["Power on"],
  },
  {
    id: "new",
    name: "New sets",
    kind: "receiver",
    source: "",
    shipped: true,
    functions: ["Power on", "Disc"],
  },
  { id: "other", name: "Blinds", kind: "blind", source: "", shipped: true, functions: ["Up"] },
];

const ranked = (set: string, fits: number, against: number) => ({
  set,
  name: set,
  fits,
  against,
  keys: 2,
});

const ranking = (part: object = {}) => ({
  ranking: {
    sets: [ranked("new", 1, 0), ranked("old", 0, 1)],
    next: { function: "Power on", set: "new", sent: "nec address=1 command=2", if_works: 1, if_not: 1 },
    presses_left: 1,
    exact: true,
    why: "2 sets agree so far; 1 more press tell them apart at most.",
    ...part,
  },
  keys: [
    { set: "new", keys: [key("Power on", 2), key("Disc", 3)] },
    { set: "old", keys: [key("Power on", 9)] },
  ],
});

const answers = {
  "/api/houses/h/code-sets": sets,
  "/api/houses/h/presets": ranking(),
  "/api/houses/h/rooms/hall/try": {
    heard: [{ device: "amp", name: "Power on", outcome: { did: "acted", what: "starts" } }],
  },
  "/api/houses/h/attempts": {},
};

function sheet(more: Record<string, unknown> = {}) {
  const onClose = vi.fn();
  const view = house({
    profiles: [model("receiver", "amp"), model("receiver", "amp2")],
    devices: [device("amp", "Amp"), device("amp2", "Second amp")],
  });
  const seen = show(view, <PresetSheet devices={view.devices} first="amp" onClose={onClose} />, {
    answers: { ...answers, ...more },
  });
  return { seen, onClose };
}

const sent = (seen: ReturnType<typeof sheet>["seen"], end: string) =>
  seen.asked.filter((one) => one.method === "POST" && one.path.endsWith(end));

describe("code sets that are tried on a device", () => {
  it("are those of its kind, the likeliest first", async () => {
    const { seen } = sheet();
    const table = await screen.findByRole("table", { name: "Code sets, the likeliest first" });
    await waitFor(() =>
      expect(
        within(table)
          .getAllByRole("checkbox")
          .map((box) => box.getAttribute("aria-label")),
      ).toEqual(["Compare New sets", "Compare Old sets"]),
    );
    expect(sent(seen, "/presets")[0]?.body).toMatchObject({ sets: ["old", "new"], trials: [] });
    expect(screen.getByText(/2 sets agree so far/)).toBeTruthy();
    expect(screen.getByText("If it works 1 set stays, else 1.")).toBeTruthy();
  });

  it("are told apart by what a press did, which is noted", async () => {
    const { seen } = sheet();
    fireEvent.click(await screen.findByRole("button", { name: "Send “Power on” as in New sets" }));
    expect(await screen.findByText(/The rehearsal room took it for “Power on”: starts\. Did/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "It worked" }));
    await waitFor(() => {
      const trials = sent(seen, "/presets").map((one) => (one.body as { trials: unknown[] }).trials);
      expect(trials.at(-1)).toEqual([
        { function: "Power on", sent: "nec address=1 command=2", worked: true },
      ]);
    });
    expect(sent(seen, "/attempts")[0]?.body).toMatchObject({
      device: "amp",
      function: "Power on",
      what: "preset",
      outcome: "worked",
    });
    expect(screen.getByRole("button", { name: "Take over the 1 that worked" })).toBeTruthy();
  });

  it("are not taken over by a press that did nothing", async () => {
    const { seen } = sheet();
    fireEvent.click(await screen.findByRole("button", { name: "Send “Power on” as in New sets" }));
    fireEvent.click(await screen.findByRole("button", { name: "Nothing, or the wrong thing" }));
    await waitFor(() => expect(sent(seen, "/attempts")).toHaveLength(1));
    const take = screen.getByRole<HTMLButtonElement>("button", { name: "Take over the 0 that worked" });
    expect(take.disabled).toBe(true);
  });

  it("offer their other keys once one set is left", async () => {
    const one = ranking({ next: null, sets: [ranked("new", 2, 0)], why: "Only “New sets” agrees." });
    const { seen } = sheet({ "/api/houses/h/presets": one });
    fireEvent.click(await screen.findByRole("button", { name: "Send “Disc”" }));
    fireEvent.click(await screen.findByRole("button", { name: "It worked" }));
    fireEvent.click(await screen.findByRole("button", { name: "Take over the 1 that worked" }));
    await waitFor(() => expect(sent(seen, "/devices/amp/proven")).toHaveLength(1));
    expect(sent(seen, "/devices/amp/proven")[0]?.body).toMatchObject({
      keys: [{ name: "Disc" }],
      note: "Tried from a code set.",
    });
  });

  it("are compared no more once they are left out", async () => {
    const { seen } = sheet();
    fireEvent.click(await screen.findByRole("checkbox", { name: "Compare Old sets" }));
    await waitFor(() => expect(sent(seen, "/presets").at(-1)?.body).toMatchObject({ sets: ["new"] }));
  });

  it("say what to do where there is none for this kind", async () => {
    sheet({ "/api/houses/h/code-sets": [sets[2]] });
    expect(await screen.findByText(/No code set is for this kind of device\. Import a keymap/)).toBeTruthy();
  });
});

describe("what the rehearsal room did", () => {
  const heard = (outcome: object) => [{ device: "amp", name: "Disc", outcome }] as never;
  it.each([
    [heard({ did: "acted", what: "input Disc" }), "amp", "took it for “Disc”: input Disc."],
    [
      heard({ did: "ignored", why: "it starts up" }),
      "amp",
      "understood “Disc” but ignored it: it starts up.",
    ],
    [heard({ did: "acted", what: "input Disc" }), "other", "shows no reaction."],
  ])("is told in a sentence", (what, id, end) => {
    expect(heardText(what, id).endsWith(end)).toBe(true);
  });
});
