// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { ServiceCall } from "../../api/types";
import { house, show } from "../../testing/house";
import { CallsView } from "./CallsView";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const call = (id: string, part: Partial<ServiceCall> = {}): ServiceCall => ({
  id,
  room: "hall",
  at: "2026-11-29T20:15:00Z",
  what: "no-picture",
  said_by: "Kitchen phone",
  facts: {
    taken_for: "Streaming",
    believed: ["Projector: on"],
    seen: [],
    sent: ["2 s before: Projector, “Source”"],
  },
  closed_at: null,
  outcome: "",
  ...part,
});

const at = "/api/houses/h/calls";

describe("calls of the household", () => {
  it("says what comes here where nobody has called", async () => {
    show(house(), <CallsView />, { answers: { [at]: [] } });
    expect(await screen.findByText(/Nobody has called/)).toBeDefined();
  });

  it("tells what is wrong, where, in what, and how the room stood then", async () => {
    show(house(), <CallsView />, { answers: { [at]: [call("a")] } });
    const open = within(await screen.findByRole("list", { name: "Open calls" }));
    expect(open.getByText(/in Hall, while it was taken for Streaming\./)).toBeDefined();
    expect(open.getByText("Projector: on")).toBeDefined();
    expect(open.getByText("Nothing.")).toBeDefined();
  });

  it("is closed with what it was, which is kept as typed until then", async () => {
    const seen = show(house(), <CallsView />, { answers: { [at]: [call("a")] } });
    const field = await screen.findByLabelText("What the call of Kitchen phone was");
    fireEvent.change(field, { target: { value: "A pulled plug" } });
    fireEvent.click(screen.getByRole("button", { name: "Close the call" }));
    await waitFor(() =>
      expect(seen.asked).toContainEqual({
        method: "POST",
        path: "/api/houses/h/calls/a/close",
        body: { outcome: "A pulled plug" },
      }),
    );
  });

  it("keeps the closed ones below", async () => {
    const closed = call("b", { closed_at: "2026-11-30T08:00:00Z", outcome: "A pulled plug" });
    show(house(), <CallsView />, { answers: { [at]: [call("a"), closed] } });
    expect(await screen.findByText("1 closed call")).toBeDefined();
    expect(screen.getByText("A pulled plug")).toBeDefined();
  });
});
