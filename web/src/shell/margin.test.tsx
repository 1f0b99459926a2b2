// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Accepted, Finding, HouseView } from "../api/types";
import { AskName } from "./AskName";
import { RoomValue } from "./context";
import { Margin } from "./Margin";
import { stepWords } from "./Passage";

const finding: Finding = {
  kind: { kind: "heat", device: "heater" },
  weight: "hazard",
  title: "Heat",
  text: "Heater makes heat.",
  place: { stage: "kit" },
  accepted: null,
} as unknown as Finding;

const accepted: Accepted = { id: "a1", found: finding.kind, reason: "Locked out." };

const house = (own: Accepted[]): HouseView =>
  ({
    house: { id: "h", name: "House" },
    rooms: [{ id: "hall", name: "Hall", position: 0, accepted: own }],
    devices: [],
    profiles: [],
    activities: [],
    versions: { a1: 7 },
    revision: 7,
  }) as unknown as HouseView;

let sent: { edits: Record<string, unknown>[] }[] = [];

function inRoom(view: HouseView, children: ReactNode) {
  const say = () => undefined;
  return (
    <QueryClientProvider client={new QueryClient()}>
      <MemoryRouter>
        <RoomValue.Provider value={{ house: view, room: "hall", devices: [], say, go: say }}>
          {children}
        </RoomValue.Provider>
      </MemoryRouter>
    </QueryClientProvider>
  );
}

beforeEach(() => {
  sent = [];
  localStorage.clear();
  vi.stubGlobal("fetch", async (request: Request) => {
    sent.push((await request.json()) as (typeof sent)[number]);
    const changed = { house: "h", revision: 8, put: [], taken: [], undo: null, redo: null };
    return Response.json({ title: "Saved", made: null, at: "2026-01-01T00:00:00Z", again: false, changed });
  });
});

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("a note in the margin", () => {
  it("is accepted by its kind and facts, with a reason", async () => {
    const user = userEvent.setup();
    render(inRoom(house([]), <Margin shown onToggle={() => undefined} findings={[finding]} stage="kit" />));
    await user.click(screen.getByRole("button", { name: "Accept" }));
    await user.type(screen.getByLabelText("Why is it no trouble here?"), " Locked out. ");
    await user.click(screen.getByRole("button", { name: "Accept" }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]?.edits).toMatchObject([
      {
        do: "put",
        entity: { entity: "accepted", value: { room: "hall", found: finding.kind, reason: "Locked out." } },
        base: null,
      },
    ]);
  });

  it("is not accepted without a reason", async () => {
    const user = userEvent.setup();
    render(inRoom(house([]), <Margin shown onToggle={() => undefined} findings={[finding]} stage="kit" />));
    await user.click(screen.getByRole("button", { name: "Accept" }));
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Accept" }).disabled).toBe(true);
  });

  it("comes back when it is taken back, and nothing else does", async () => {
    const user = userEvent.setup();
    const known = { ...finding, accepted: "Locked out." };
    render(
      inRoom(house([accepted]), <Margin shown onToggle={() => undefined} findings={[known]} stage="kit" />),
    );
    await user.click(screen.getByText("Accepted (1)"));
    await user.click(screen.getByRole("button", { name: "Take it back" }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]?.edits).toEqual([{ do: "remove", kind: "accepted", id: "a1", base: 7 }]);
  });
});

describe("the name in the logbook", () => {
  it("is asked for once, and kept", async () => {
    const user = userEvent.setup();
    const first = render(<AskName />);
    await user.type(screen.getByRole("textbox"), "Ana{Enter}");
    expect(localStorage.getItem("kestrel-who")).toBe("Ana");
    expect(screen.queryByRole("form")).toBeNull();
    first.unmount();
    render(<AskName />);
    expect(screen.queryByRole("textbox")).toBeNull();
  });

  it("is not asked for again where somebody said not now", async () => {
    const user = userEvent.setup();
    const first = render(<AskName />);
    await user.click(screen.getByRole("button", { name: /Not now/ }));
    expect(localStorage.getItem("kestrel-who")).toBeNull();
    first.unmount();
    render(<AskName />);
    expect(screen.queryByRole("textbox")).toBeNull();
  });

  it("stands at an undo that is somebody else’s", () => {
    const step = { title: "Lantern", who: "Ana", at: "2026-01-01T00:00:00Z" };
    expect(stepWords(step)).toBe("Lantern (by Ana)");
    localStorage.setItem("kestrel-who", "Ana");
    expect(stepWords(step)).toBe("Lantern");
  });
});
