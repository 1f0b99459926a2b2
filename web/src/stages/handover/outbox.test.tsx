// @vitest-environment jsdom
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { RequestError } from "../../api/client";
import type { SeenOfTest } from "./api";
import { passing, useOutbox } from "./outbox";

const seen: SeenOfTest = {
  of: { test: "label", surface: "s" },
  outcome: "passed",
  note: "",
  photo: null,
  known: null,
  at: "2027-05-03T10:00:00Z",
};

const away = new RequestError({
  type: "about:blank",
  title: "No answer",
  status: 0,
  kind: "unreachable",
  detail: "The server cannot be reached.",
});

beforeEach(() => localStorage.clear());
afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

describe("results on their way", () => {
  it("are sent once and taken out when the server has them", async () => {
    const send = vi.fn(async () => undefined);
    const { result } = renderHook(() => useOutbox("h", "hall", send));
    act(() => result.current.add(seen));
    await waitFor(() => expect(result.current.waiting).toEqual([]));
    expect(send).toHaveBeenCalledTimes(1);
    expect(localStorage.getItem("kestrel-results:h")).toBe("[]");
  });

  it("wait on this device while the server is away, also through a reload, and are sent when it is back", async () => {
    let back = false;
    const send = vi.fn(async () => {
      if (!back) throw away;
    });
    const first = renderHook(() => useOutbox("h", "hall", send));
    act(() => first.result.current.add(seen));
    await waitFor(() => expect(send).toHaveBeenCalled());
    expect(first.result.current.waiting.length).toBe(1);
    first.unmount();
    back = true;
    const again = renderHook(() => useOutbox("h", "hall", send));
    await waitFor(() => expect(again.result.current.waiting).toEqual([]));
  });

  it("that are refused are told and do not stand in the way of the next one", async () => {
    const refusal = new RequestError({
      type: "about:blank",
      title: "Conflict",
      status: 409,
      kind: "gone",
      detail: "This test is not on the list any more.",
    });
    const send = vi.fn(async (own: SeenOfTest) => {
      if (own.outcome === "passed") throw refusal;
    });
    const { result } = renderHook(() => useOutbox("h", "hall", send));
    act(() => result.current.add(seen));
    await waitFor(() => expect(result.current.refused).toBe("This test is not on the list any more."));
    act(() => result.current.add({ ...seen, outcome: "not-possible", note: "no label" }));
    await waitFor(() => expect(result.current.waiting).toEqual([]));
    expect(send).toHaveBeenCalledTimes(2);
  });

  it("of another room wait until that room is open", () => {
    const send = vi.fn(async () => undefined);
    localStorage.setItem("kestrel-results:h", JSON.stringify([{ id: "1", room: "loft", seen }]));
    const { result } = renderHook(() => useOutbox("h", "hall", send));
    expect(result.current.waiting.length).toBe(1);
    expect(send).not.toHaveBeenCalled();
  });

  it("are worth another try only where the server is away", () => {
    expect(passing(away)).toBe(true);
    expect(passing(new TypeError("network"))).toBe(true);
    expect(passing(new Error("no"))).toBe(false);
  });
});
