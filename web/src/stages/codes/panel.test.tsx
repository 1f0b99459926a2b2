// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { CodeLine, DeviceFunction } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { CodePanel } from "./CodePanel";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const press = { presses: 1, hold_ms: 0, gap_ms: 400 };
const fn = { id: "disc", name: "Disc", press, frames: null } as unknown as DeviceFunction;
const amp = device("amp", "Amp");

const line = (id: string, medium: string, part: object = {}) =>
  ({
    id,
    device: "amp",
    function: "disc",
    medium,
    preferred: false,
    state: "decoded",
    summary: "nec address=4 command=8",
    send_ms: 108,
    since: "2026-11-02T10:00:00Z",
    tested: null,
    ...part,
  }) as unknown as CodeLine;

const read = (body: object, part: object = {}) => ({
  code: { id: "a", device: "amp", function: "disc", body, captured: null, since: null, tested: null },
  captured: false,
  text: null,
  radio: null,
  reading: null,
  ...part,
});

const reading = {
  best: null,
  candidates: [],
  why: "Not recognised: no known protocol opens with 6000 µs and 3000 µs.",
  cleaned: { durations_us: [6000, 3000, 500], removed: [] },
  frames: [{ start_us: 0, length_us: 9_500, durations: 3, gap_us: null }],
};

function panel(
  lines: CodeLine[],
  answers: Record<string, unknown>,
  refuse?: string,
  own: DeviceFunction = fn,
) {
  const onClose = vi.fn();
  const seen = show(
    house({
      profiles: [model("receiver", "amp", { functions: [own] })],
      devices: [amp],
      codes: lines,
      versions: { amp: 2, a: 5, b: 6 },
    }),
    <CodePanel device={amp} fn={own} lines={lines} onClose={onClose} />,
    { answers, ...(refuse && { refuse }) },
  );
  return { seen, onClose };
}

describe("a function of a device", () => {
  it("without a code is the place to enter one: a capture, a payload or a command", async () => {
    const { onClose } = panel([], {});
    const kinds = screen.getByRole("tablist", { name: "What is entered" });
    expect(
      within(kinds)
        .getAllByRole("tab")
        .map((tab) => tab.textContent),
    ).toEqual(["A capture", "An opaque payload", "A network command"]);
    await userEvent.click(within(kinds).getByRole("tab", { name: "A network command" }));
    expect(screen.getByLabelText(/^Text;/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Cancel" }));
    expect(onClose).toHaveBeenCalled();
  });

  it("says what its code says, and that nothing of a capture is kept", async () => {
    const raw = { as: "raw", capture: { durations_us: [6000, 3000, 500], carrier_hz: null } };
    panel([line("a", "ir", { state: "raw" })], { "/codes/a": read(raw, { reading }) });
    expect(await screen.findByText(/^Not recognised: no known protocol opens with 6000/)).toBeTruthy();
    expect(screen.getByText("Kept as raw timing: it is sent just as it was captured.")).toBeTruthy();
  });

  it("shows the bytes of a command", async () => {
    const command = { kind: "pjlink", command: "POWR 1" };
    panel([line("a", "ip")], {
      "/codes/a": read({ as: "ip", command }),
      "/api/commands": { hex: "25 31", text: "%1POWR 1\\r", bytes: 9, expects: null },
    });
    expect((await screen.findByLabelText("Bytes that are sent")).textContent).toContain("%1POWR 1");
  });

  it("has a code a medium, one of which is sent", async () => {
    const ip = { as: "ip", command: { kind: "pjlink", command: "POWR 1" } };
    panel([line("a", "ir", { preferred: true }), line("b", "ip")], {
      "/codes/a": read({ as: "decoded" }, { reading }),
      "/codes/b": read(ip),
      "/api/commands": { hex: "25 31", text: "%1POWR 1\\r", bytes: 9, expects: null },
    });
    const infrared = await screen.findByRole("button", { name: /is sent$/ });
    expect(infrared.getAttribute("aria-pressed")).toBe("true");
    const [, other] = screen.getAllByRole("button", { pressed: false });
    await userEvent.click((other ?? screen.getAllByRole("button", { pressed: false })[0]) as HTMLElement);
    expect(await screen.findByLabelText("Bytes that are sent")).toBeTruthy();
  });

  it("is removed as one step", async () => {
    const { seen } = panel([line("a", "ir")], { "/codes/a": read({ as: "decoded" }, { reading }) });
    await userEvent.click(await screen.findByRole("button", { name: "Remove code" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]).toMatchObject({ do: "remove", kind: "code", id: "a", base: 5 });
  });

  it("is sent once by a key, and what came of it is written down", async () => {
    const { seen } = panel([line("a", "ir")], {
      "/codes/a": read({ as: "decoded" }, { reading }),
      "/test": { note: "Amp took it for “Disc”.", effect: "worked", heard: [] },
    });
    await screen.findByText(/^Not recognised/);
    fireEvent.keyDown(document.body, { key: "t" });
    expect((await screen.findByRole("status")).textContent).toContain("Sent. Amp took it for “Disc”.");
    expect(seen.asked.find((asked) => asked.path.endsWith("/test"))?.body).toEqual({
      device: "amp",
      function: "disc",
    });
    await userEvent.click(screen.getByRole("button", { name: "Only sometimes" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]?.entity?.value["tested"]).toMatchObject({ effect: "sometimes" });
  });

  it("says why it cannot be sent", async () => {
    panel([line("a", "ir")], { "/codes/a": read({ as: "decoded" }, { reading }) }, "No gateway reaches Amp.");
    await userEvent.click(await screen.findByRole("button", { name: /^Send once/ }));
    expect(await screen.findByText("No gateway reaches Amp.")).toBeTruthy();
  });

  it("is entered anew by a key, and Escape leaves what is there", async () => {
    const { onClose } = panel([line("a", "ir")], { "/codes/a": read({ as: "decoded" }, { reading }) });
    await screen.findByText(/^Not recognised/);
    fireEvent.keyDown(document.body, { key: "l" });
    const kinds = await screen.findByRole("tablist", { name: "What is entered" });
    fireEvent.keyDown(kinds, { key: "Escape" });
    expect(onClose).not.toHaveBeenCalled();
    fireEvent.keyDown(await screen.findByRole("tablist", { name: "What is known of Disc" }), {
      key: "Escape",
    });
    expect(onClose).toHaveBeenCalled();
  });

  it("tells what was tried with it", async () => {
    const attempt = {
      id: 1,
      at: "2026-11-03T18:30:00Z",
      what: "preset",
      outcome: "wrong-thing",
      sent: "nec address=4 command=9",
      note: "It hummed.",
    };
    panel([line("a", "ir")], { "/codes/a": read({ as: "decoded" }, { reading }), "/attempts": [attempt] });
    await userEvent.click(await screen.findByRole("tab", { name: "Attempts" }));
    const table = await screen.findByRole("table", { name: "Attempts" });
    expect(table.textContent).toContain("tried from a setwrong thingnec address=4 command=9It hummed.");
  });
});

describe("how a key is pressed", () => {
  const form = async (own: DeviceFunction = fn) => {
    const made = panel(
      [line("a", "ir")],
      { "/codes/a": read({ as: "decoded" }, { reading }) },
      undefined,
      own,
    );
    await userEvent.click(await screen.findByRole("tab", { name: "How its key is pressed" }));
    return made;
  };
  const set = (label: RegExp, value: string) =>
    fireEvent.change(screen.getByLabelText(label), { target: { value } });

  it("is saved with the model: presses, pause, hold and frames", async () => {
    const { seen } = await form();
    set(/^Presses$/, "2");
    set(/^The last one held for/, "1.5");
    set(/^Longest pause/, "0.6");
    set(/^Frames in a row/, "5");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    const functions = seen.edits[0]?.[0]?.entity?.value["functions"];
    expect(functions).toEqual([
      { id: "disc", name: "Disc", press: { presses: 2, hold_ms: 1_500, gap_ms: 600 }, frames: 5 },
    ]);
  });

  it("takes one to nine presses and no words for seconds, and loses nothing", async () => {
    const { seen } = await form();
    set(/^Presses$/, "12");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    expect(await screen.findByText(/^Presses are 1 to 9/)).toBeTruthy();
    set(/^Presses$/, "1");
    set(/^Frames in a row/, "400");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    expect(await screen.findByText(/^Frames in a row are 1 to 100/)).toBeTruthy();
    expect(screen.getByLabelText(/^Frames in a row/)).toHaveProperty("value", "400");
    expect(seen.edits).toEqual([]);
  });

  it("is said beside the name where it is no tap", async () => {
    await form({ ...fn, press: { presses: 2, hold_ms: 0, gap_ms: 400 } } as DeviceFunction);
    expect(screen.getByText(/^pressed /)).toBeTruthy();
  });
});
