// @vitest-environment jsdom
import { cleanup, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Looked } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { aroundMistake, carrierOf, drawnOf, fieldWords, labelled, protocolName } from "./protocols";
import { ProtocolsSheet } from "./ProtocolsSheet";

beforeEach(() => {
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe() {}
      disconnect() {}
    },
  );
  localStorage.clear();
});

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const looked: Looked = {
  carrier_hz: 38_000,
  fields: [
    { name: "D", max: 65535, default: null },
    { name: "F", max: 255, default: 7 },
  ],
  frame: [6000, 3000, 500, 500, 500],
  held: null,
  parts: [
    { label: "leader", bit: null, value: null, from_us: 0, to_us: 9000 },
    { label: "field 2", bit: 0, value: true, from_us: 9000, to_us: 10000 },
    { label: "check", bit: 1, value: false, from_us: 10000, to_us: 10500 },
  ],
  check_bits: 8,
  least_frames: 1,
};

const IRP = "{38k,500}<1,-1|1,-3>(12,-6,D:16,F:8,~F:8,1,^90m)*[D:0..65535,F:0..255]";

describe("a described protocol", () => {
  it("is called by its name, wherever its description is written", () => {
    expect(protocolName(`irp:lantern${IRP}`)).toBe("lantern");
    expect(protocolName("nec-ext")).toBe("nec-ext");
  });

  it("is drawn with the names of its fields", () => {
    expect(labelled(looked).parts.map((part) => part.label)).toEqual(["leader", "F", "check"]);
    const drawn = drawnOf("lantern", looked);
    expect(drawn.best?.fields).toEqual({ D: 0, F: 7 });
    expect(drawn.frames[0]).toMatchObject({ durations: 5, length_us: 10_500 });
    expect(fieldWords(looked)).toBe("D 0–65535; F 0–255, usually 7");
  });

  it("shows where it goes wrong", () => {
    expect(aroundMistake("{38k}<1;2>", { at: 7 })).toEqual(["{38k}<1", ";", "2>"]);
    expect(aroundMistake("{38k", { at: 4 })).toEqual(["{38k", " ", ""]);
    expect(aroundMistake("{38k", { at: null })).toBeUndefined();
  });

  it("keeps a carrier that is not the protocol's own", () => {
    expect(carrierOf(40_000, 38_000)).toEqual({ carrier_hz: 40_000 });
    expect(carrierOf(38_200, 38_000)).toEqual({});
    expect(carrierOf(null, 38_000)).toEqual({});
  });
});

describe("the sheet of protocols", () => {
  const raw = (id: string) => ({
    id,
    device: "lamp",
    function: "on",
    summary: "raw timing, 67 durations",
    medium: "ir",
  });
  const own = () =>
    house({
      profiles: [model("light", "lamp")],
      devices: [device("lamp", "Brass lantern")],
      codes: [raw("a"), raw("b")] as never,
    });
  const sheet = (answers: Record<string, unknown>, refuse?: string) =>
    show(own(), <ProtocolsSheet onClose={() => undefined} />, {
      answers: { "/protocols": [], "/protocols/look": { looked, problem: null, at: null }, ...answers },
      ...(refuse && { refuse }),
    });
  const add = async (text: string) => {
    await userEvent.type(screen.getByLabelText("A capture of one key"), text);
    await userEvent.click(screen.getByRole("button", { name: "Add this capture" }));
  };

  it("proposes from three captures, and keeps what was found under a name", async () => {
    const words = ["Pulse distance: a mark of 500 µs.", "It explains 9 of 9 frames."];
    const seen = sheet({
      "/protocols/propose": {
        irp: IRP,
        explained: 9,
        frames: 9,
        worst_us: 4,
        flip_us: 500,
        fields: [],
        words,
      },
    });
    const propose = screen.getByRole("button", { name: "Propose a description" });
    await add("+500 -500 +500");
    await add("+500 -1500 +500");
    expect(propose).toHaveProperty("disabled", true);
    expect(screen.getByText("2 of 3 captures of different keys")).toBeTruthy();
    await add("+500 -1500 +1500");
    await userEvent.click(screen.getByRole("button", { name: "Remove capture 1" }));
    await add("+500 -500 +1500");
    expect(
      within(screen.getByRole("list", { name: "Captures to compare" })).getAllByRole("listitem"),
    ).toHaveLength(3);
    await userEvent.click(propose);
    const found = await screen.findByRole("list", { name: "What was found" });
    expect(found.textContent).toContain("It explains 9 of 9 frames.");
    const sent = seen.asked.find((asked) => asked.path.endsWith("/propose"));
    expect(sent?.body).toMatchObject({
      captures: ["+500 -1500 +500", "+500 -1500 +1500", "+500 -500 +1500"],
    });
    await userEvent.type(screen.getByLabelText("Name"), "lantern");
    await screen.findByTestId("described-frame");
    await userEvent.click(screen.getByRole("button", { name: "Keep with the house" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]).toMatchObject({
      do: "put",
      base: null,
      entity: { entity: "protocol", value: { name: "lantern", irp: IRP, note: "" } },
    });
    await waitFor(() => expect(screen.getByLabelText("Description in IRP")).toHaveProperty("value", ""));
  });

  it("marks the place of a mistake, and keeps nothing", async () => {
    const problem = "At character 15: “;” does not fit here.";
    sheet({ "/protocols/look": { looked: null, problem, at: 14 } });
    await userEvent.click(screen.getByLabelText("Description in IRP"));
    await userEvent.paste(IRP.replace("<1,-1|", "<1,-1;"));
    const alert = await screen.findByRole("alert");
    expect(alert.textContent).toContain(problem);
    expect(screen.getByTestId("mistake").querySelector("mark")?.textContent).toBe(";");
    expect(screen.getByRole("button", { name: "Keep with the house" })).toHaveProperty("disabled", true);
  });

  it("takes the raw codes of a device as captures", async () => {
    sheet({
      "/codes/a": { code: raw("a"), text: "+1 -2 +3", captured: true },
      "/codes/b": { code: raw("b"), text: "+1 -2 +4", captured: true },
    });
    await userEvent.click(screen.getByRole("button", { name: "Add the raw codes of Brass lantern" }));
    const list = await screen.findByRole("list", { name: "Captures to compare" });
    expect(within(list).getAllByRole("listitem")).toHaveLength(2);
  });

  it("lists what is kept and what codes bring with them", async () => {
    const line = (id: string | null, name: string, codes: number) => ({
      id,
      name,
      irp: IRP,
      note: "of the attic",
      written: `irp:${name}${IRP}`,
      looked,
      codes,
    });
    const seen = sheet({ "/protocols": [line("p", "lantern", 2), line(null, "visitor", 1)] });
    const table = await screen.findByRole("table", { name: "Protocols that are described" });
    expect(table.textContent).toContain("of the attic");
    expect(table.textContent).toContain("brought along by codes");
    await userEvent.click(within(table).getByRole("button", { name: "Remove lantern" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]).toMatchObject({ do: "remove", kind: "protocol", id: "p" });
    await userEvent.click(within(table).getByRole("button", { name: "Keep visitor" }));
    await waitFor(() => expect(seen.edits).toHaveLength(2));
    expect(seen.edits[1]?.[0]?.entity?.value).toMatchObject({ name: "visitor", irp: IRP });
  });

  it("says what the server refuses, and loses nothing", async () => {
    sheet({}, "Name: “lantern” is taken. Choose another name.");
    await userEvent.click(screen.getByLabelText("Description in IRP"));
    await userEvent.paste(IRP);
    expect(screen.getByLabelText("Description in IRP")).toHaveProperty("value", IRP);
    await userEvent.type(screen.getByLabelText("Name"), "lantern");
    expect(await screen.findByText(/is taken/)).toBeTruthy();
  });
});
