// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { afterEach, expect, it, vi } from "vitest";
import type { ShelfLine } from "../api/types";
import { HouseMenu } from "./HouseMenu";
import { Removed } from "./Removed";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

/** A server that answers once it is let. */
function slow(status: number, body: unknown): () => void {
  let answer: () => void = () => undefined;
  const waiting = new Promise<void>((resolve) => {
    answer = resolve;
  });
  vi.stubGlobal("fetch", async () => {
    await waiting;
    return Response.json(body, { status });
  });
  return () => answer();
}

const inPage = (part: React.ReactNode) => (
  <QueryClientProvider client={new QueryClient()}>
    <MemoryRouter>{part}</MemoryRouter>
  </QueryClientProvider>
);

it("an answer is told although its line is gone from the shelf by then", async () => {
  const answer = slow(404, { status: 404, title: "None", kind: "none", detail: "There is no such house." });
  const told: string[] = [];
  const house = { id: "h", name: "Teal House" } as ShelfLine;
  const say = (line: string) => void told.push(line);
  const shown = render(inPage(<HouseMenu house={house} say={say} fail={say} />));
  fireEvent.keyDown(screen.getByRole("button", { name: "What to do with Teal House" }), { key: "Enter" });
  fireEvent.click(await screen.findByRole("menuitem", { name: "Remove" }));
  shown.unmount();
  answer();
  await waitFor(() => expect(told).toEqual(["There is no such house."]));
});

it("a house that is put back says so although it stands among the removed no more", async () => {
  const answer = slow(200, { id: "h", name: "Teal House", said: "Teal House is back." });
  const told: string[] = [];
  const removed = [
    { id: "h", name: "Teal House", removed_at: "2026-11-28T10:00:00Z", kept_until: "2026-12-28T10:00:00Z" },
  ];
  const say = (line: string) => void told.push(line);
  const shown = render(inPage(<Removed removed={removed} say={say} fail={say} />));
  fireEvent.click(screen.getByRole("button", { name: /Put Teal House back/ }));
  shown.unmount();
  answer();
  await waitFor(() => expect(told).toEqual(["Teal House is back."]));
});
