// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { CodeLine, Device, DeviceFunction } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { CaptureForm } from "./CaptureForm";
import { CommandForm } from "./CommandForm";
import { CompareView } from "./CompareView";
import { HiddenSheet } from "./HiddenSheet";
import { OpaqueForm } from "./OpaqueForm";

beforeEach(() => {
  localStorage.clear();
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe() {}
      unobserve() {}
      disconnect() {}
    },
  );
  // A drop-down list asks for what this stand-in of a browser has not.
  Element.prototype.hasPointerCapture = () => false;
  Element.prototype.scrollIntoView = () => undefined;
});

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const amp: Device = device("amp", "Amp", { network: { ip: "192.0.2.7", mac: "02:00:5e:10:00:01" } as never });
const fn = { id: "disc", name: "Disc" } as DeviceFunction;
const own = (part: object = {}) =>
  house({ profiles: [model("receiver", "amp", { functions: [fn] })], devices: [amp], ...part });

async function choose(label: string, option: string) {
  await userEvent.click(screen.getByRole("combobox", { name: label }));
  await userEvent.click(await screen.findByRole("option", { name: option }));
}

describe("a command on the network", () => {
  const bytes = { hex: "50 57 0d", text: "PW\\r", bytes: 3, expects: null };
  const form = (answers: object = { "/api/commands": bytes }, lines: CodeLine[] = []) => {
    const saved = vi.fn();
    const seen = show(
      own({ versions: { amp: 1, line: 4 } }),
      <CommandForm device={amp} fn={fn} lines={lines} onSaved={saved} onCancel={() => undefined} />,
      { answers: answers as Record<string, unknown> },
    );
    const body = (at = 0) => seen.edits[at]?.[0]?.entity?.value["body"];
    return { seen, saved, body };
  };

  it("shows every byte that it sends, to the address of the device", async () => {
    const { seen } = form();
    expect(screen.getByText(/^Type what the device wants to hear/)).toBeTruthy();
    await userEvent.type(screen.getByLabelText(/^Text;/), "PW");
    const shown = await screen.findByLabelText("Bytes that are sent");
    expect(shown.textContent).toContain("Sends 3 bytes");
    expect(shown.textContent).toContain("50 57 0d");
    expect(seen.asked.some((asked) => asked.path === "/api/commands")).toBe(true);
  });

  it("is saved with its terminator, its checksum and what should come back", async () => {
    const { saved, body } = form();
    await userEvent.type(screen.getByLabelText(/^Text;/), "PW");
    await userEvent.type(screen.getByLabelText(/^It should answer/), "OK");
    await choose("Closed by", "CR LF");
    await choose("Checked by", "crc-16/modbus");
    await userEvent.click(screen.getByRole("button", { name: "Save command" }));
    await waitFor(() => expect(saved).toHaveBeenCalled());
    expect(body()).toEqual({
      as: "ip",
      command: {
        kind: "payload",
        transport: "tcp",
        form: "text",
        text: "PW",
        terminator: "cr-lf",
        checksum: "crc-16/modbus",
        expect: "OK",
      },
    });
  });

  it("can be an HTTP request, a packet that wakes, or a line of PJLink", async () => {
    const ready = [{ name: "Power on", command: { kind: "pjlink", command: "POWR 1" } }];
    const { seen, body } = form({ "/api/commands": bytes, "/commands/pjlink": ready });
    await choose("Kind of command", "HTTP request");
    await choose("Verb", "PUT");
    fireEvent.change(screen.getByLabelText("Path"), { target: { value: "/input" } });
    fireEvent.change(screen.getByLabelText("Body"), { target: { value: "disc" } });
    await userEvent.click(screen.getByRole("button", { name: "Save command" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(body(0)).toEqual({
      as: "ip",
      command: { kind: "http", verb: "PUT", path: "/input", body: "disc" },
    });
    await choose("Kind of command", "Wake-on-LAN");
    expect(screen.getByLabelText("MAC address")).toHaveProperty("value", "02:00:5e:10:00:01");
    await userEvent.click(screen.getByRole("button", { name: "Save command" }));
    await waitFor(() => expect(seen.edits).toHaveLength(2));
    expect(body(1)).toEqual({ as: "ip", command: { kind: "wake-on-lan", mac: "02:00:5e:10:00:01" } });
    await choose("Kind of command", "PJLink, class 1");
    await choose("Ready-made", "Power on");
    await userEvent.click(screen.getByRole("button", { name: "Save command" }));
    await waitFor(() => expect(seen.edits).toHaveLength(3));
    expect(body(2)).toEqual({ as: "ip", command: { kind: "pjlink", command: "POWR 1" } });
  });

  it("takes the place of the command that is there", async () => {
    const line = { id: "line", medium: "ip", device: "amp", function: "disc" } as CodeLine;
    const { seen } = form({ "/api/commands": bytes }, [line]);
    await userEvent.type(screen.getByLabelText(/^Text;/), "PW");
    await userEvent.click(screen.getByRole("button", { name: "Save command" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]).toMatchObject({ base: 4, entity: { value: { id: "line" } } });
  });
});

describe("an opaque payload", () => {
  const read = { hex: "26000a00", base64: "JgAKAA==", bytes: 4 };
  const form = (answers: Record<string, unknown> = { "/api/payloads": read }) => {
    const seen = show(
      own(),
      <OpaqueForm device={amp} fn={fn} lines={[]} onSaved={() => undefined} onCancel={() => undefined} />,
      { answers },
    );
    return seen;
  };
  const paste = (text: string) =>
    fireEvent.change(screen.getByLabelText(/^Payload as hex/), { target: { value: text } });

  it("is shown in both forms, and kept with how long a send lasts", async () => {
    const seen = form();
    paste("JgAKAA==");
    expect(await screen.findByText("26 00 0a 00")).toBeTruthy();
    expect(screen.getByText(/has not been measured/)).toBeTruthy();
    fireEvent.change(screen.getByLabelText("A send lasts (ms)"), { target: { value: "180" } });
    expect(screen.getByText(/measured to last 180 ms/)).toBeTruthy();
    await choose("Sent by", "Radio 433 MHz");
    await userEvent.click(screen.getByRole("button", { name: "Keep payload" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]?.entity?.value["body"]).toEqual({
      as: "opaque",
      payload: "26000a00",
      medium: "rf433",
      send_ms: 180,
      presses: 1,
    });
  });

  it("wants a sending time that is one, and says what is no payload", async () => {
    form();
    paste("26");
    await screen.findByText("26 00 0a 00");
    fireEvent.change(screen.getByLabelText("A send lasts (ms)"), { target: { value: "soon" } });
    expect(screen.getByText(/is a whole number of ms/)).toBeTruthy();
    expect(screen.getByRole("button", { name: "Keep payload" })).toHaveProperty("disabled", true);
  });
});

describe("a capture", () => {
  const best = {
    protocol: "nec",
    fields: { address: 4, command: 8 },
    confidence: 0.98,
    frames_matched: 1,
    held_signs: 0,
    frames_total: 1,
    stretch_us: 0,
    unit_error_percent: 0,
    worst_error_us: 3,
    rms_error_us: 1,
    carrier_hz: 38_400,
    period_us: null,
    whole_repeats: true,
    frame_start_us: 0,
    parts: [],
    errors_us: [],
    remarks: [],
  };
  const reading = (found: object | null) => ({
    best: found,
    candidates: found ? [found] : [],
    why: found ? "Read as nec address=4 command=8." : "Not recognised.",
    cleaned: { durations_us: [9024, 4512, 564], removed: [] },
    frames: [{ start_us: 0, length_us: 14_100, durations: 3, gap_us: null }],
  });
  const capture = { durations_us: [9024, 4512, 564], carrier_hz: 40_000 };
  const answer = (found: object | null) => ({
    format: "signed",
    remarks: [],
    capture,
    reading: reading(found),
    radio: null,
  });
  const form = (answers: Record<string, unknown>) => {
    const saved = vi.fn();
    const seen = show(
      own({ versions: { amp: 1 } }),
      <CaptureForm device={amp} fn={fn} lines={[]} onSaved={saved} onCancel={() => undefined} />,
      { answers },
    );
    return { seen, saved };
  };
  const paste = () =>
    fireEvent.change(screen.getByLabelText(/^Capture:/), { target: { value: "+9024 -4512 +564" } });

  it("is kept as what it says, with the carrier that was heard where that is another one", async () => {
    const { seen, saved } = form({ "/api/readings": answer(best) });
    paste();
    await screen.findByText(/^Read as nec/);
    await userEvent.click(screen.getByRole("button", { name: "Save code" }));
    await waitFor(() => expect(saved).toHaveBeenCalled());
    expect(seen.edits[0]?.[0]?.entity?.value).toMatchObject({
      device: "amp",
      function: "disc",
      body: {
        as: "decoded",
        message: { protocol: "nec", fields: { address: 4, command: 8 } },
        carrier_hz: 40_000,
        whole_repeats: true,
      },
      captured: capture,
    });
  });

  it("is kept as raw timing where no protocol fits", async () => {
    const { seen } = form({ "/api/readings": answer(null) });
    paste();
    await userEvent.click(await screen.findByRole("button", { name: "Keep as raw timing" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]?.entity?.value).toMatchObject({ body: { as: "raw", capture }, captured: null });
  });

  it("renames its function in the same step", async () => {
    const { seen } = form({ "/api/readings": answer(best) });
    paste();
    await screen.findByText(/^Read as nec/);
    const name = screen.getByLabelText("Name of the function");
    await userEvent.clear(name);
    await userEvent.type(name, "Disc input");
    await userEvent.click(screen.getByRole("button", { name: "Save code" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.map((edit) => edit.entity?.entity)).toEqual(["profile", "code"]);
  });

  it("of a key makes one better reading with others of it", async () => {
    const combined = { capture, reading: reading(best), agree: 2, remarks: ["Both say the same."] };
    form({ "/api/readings": answer(best), "/readings/combined": combined });
    paste();
    await screen.findByText(/^Read as nec/);
    await userEvent.click(screen.getByRole("button", { name: "Add another capture of this key" }));
    expect(await screen.findByText(/1 captures together, 2 agree\. Both say the same\./)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Forget the earlier ones" }));
    await waitFor(() => expect(screen.queryByText(/captures together/)).toBeNull());
  });
});

describe("the search for hidden keys", () => {
  const offer = (command: number) => ({
    message: { protocol: "nec", fields: { address: 4, command } },
    words: `nec address=4 command=${command}`,
    why: "1 beside “Power on”",
  });
  const untried = { caution: "Watch the device.", next: [offer(3), offer(5)], left: 240, tried: 12 };
  const sheet = () =>
    show(own(), <HiddenSheet devices={[amp]} first="amp" onClose={() => undefined} />, {
      answers: { "/untried": untried, "/try": { heard: [] } },
    });

  it("says what it would send and why, and never without a hand", async () => {
    const seen = sheet();
    expect(await screen.findByText("Watch the device.")).toBeTruthy();
    expect(screen.getByText(/240 are left, 12 were tried/)).toBeTruthy();
    expect(screen.getByRole("listitem").textContent).toContain("then nec address=4 command=5");
    expect(seen.asked.some((asked) => asked.path.endsWith("/try"))).toBe(false);
  });

  it("keeps what a command did as a function, and notes what did nothing", async () => {
    const seen = sheet();
    await userEvent.click(await screen.findByRole("button", { name: /^Send the next/ }));
    expect((await screen.findByRole("status")).textContent).toContain("nec address=4 command=3");
    await userEvent.click(screen.getByRole("button", { name: "Nothing happened" }));
    await waitFor(() => expect(seen.asked.some((asked) => asked.path.endsWith("/attempts"))).toBe(true));
    const noted = seen.asked.find((asked) => asked.path.endsWith("/attempts"));
    expect(noted?.body).toMatchObject({
      what: "search",
      outcome: "nothing",
      sent: "nec address=4 command=3",
    });
    await userEvent.click(await screen.findByRole("button", { name: /^Send the next/ }));
    await userEvent.type(await screen.findByLabelText("What did the device do"), "Night mode");
    await userEvent.click(screen.getByRole("button", { name: "Keep it as a function" }));
    await waitFor(() => expect(seen.asked.some((asked) => asked.path.endsWith("/proven"))).toBe(true));
    const kept = seen.asked.find((asked) => asked.path.endsWith("/proven"));
    expect(kept?.body).toMatchObject({ keys: [{ name: "Night mode" }] });
  });
});

describe("codes beside each other", () => {
  const line = (id: string, summary: string) =>
    ({ id, device: "amp", function: "disc", medium: "ir", summary }) as unknown as CodeLine;
  const read = (protocol: string, command: number) => ({
    reading: {
      best: {
        protocol,
        fields: { address: 4, command },
        stretch_us: 20,
        worst_error_us: 3,
        parts: [],
        errors_us: [],
        frame_start_us: 0,
      },
      candidates: [],
      cleaned: { durations_us: [9024, 4512, 564], removed: [] },
      frames: [{ start_us: 0, length_us: 14_100, durations: 3, gap_us: null }],
    },
    code: { body: { as: "decoded" } },
    captured: false,
  });

  it("show their near twins, and how the nearest differs", async () => {
    const codes = [line("a", "nec address=4 command=8"), line("b", "nec address=4 command=9")];
    const twin = { code: "b", summary: "nec address=4 command=9", bits: 1, both_hear: true };
    show(own({ codes }), <CompareView line={codes[0] as CodeLine} />, {
      answers: {
        "/codes/a/twins": [twin],
        "/codes/a": read("nec", 8),
        "/codes/b": read("irp:lantern{38k}", 9),
      },
    });
    const twins = await screen.findByRole("table", { name: "Near twins" });
    expect(within(twins).getByRole("row", { name: /Amp · Disc/ }).textContent).toContain("yes");
    const both = await screen.findByRole("table", { name: "Fields of both" });
    expect(within(both).getByRole("row", { name: /^command/ }).textContent).toBe("command89differs");
    expect(within(both).getByRole("row", { name: /^protocol/ }).textContent).toBe(
      "protocolneclanterndiffers",
    );
    expect(within(both).getByRole("row", { name: /^address/ }).textContent).toBe("address44");
  });

  it("say where there is no twin", async () => {
    const codes = [line("a", "nec address=4 command=8")];
    show(own({ codes }), <CompareView line={codes[0] as CodeLine} />, {
      answers: { "/twins": [], "/codes/a": read("nec", 8) },
    });
    expect(await screen.findByText("No other code of the house is within two bits of it.")).toBeTruthy();
  });
});
