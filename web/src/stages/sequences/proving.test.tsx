// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { house, show } from "../../testing/house";
import { MatrixView } from "./MatrixView";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const matrix = "/api/houses/h/rooms/hall/matrix";

/** A server whose proof takes until it is let go. */
function slow(progress: unknown) {
  const asked: string[] = [];
  let answer: (response: Response) => void = () => undefined;
  vi.stubGlobal("fetch", (request: Request) => {
    const path = new URL(request.url).pathname;
    asked.push(`${request.method} ${path}`);
    if (request.method === "DELETE") return Promise.resolve(new Response(null, { status: 204 }));
    if (path.endsWith("/progress")) return Promise.resolve(Response.json(progress));
    if (path === matrix) return new Promise<Response>((done) => (answer = done));
    return Promise.resolve(
      Response.json({ status: 404, title: "", kind: "none", detail: "" }, { status: 404 }),
    );
  });
  return { asked, ends: (body: unknown, status: number) => answer(Response.json(body, { status })) };
}

/** `show` brings a stand-in that answers at once; this one is put in its place before anything is asked. */
function shown(progress: unknown) {
  const server = slow(progress);
  const own = globalThis.fetch;
  show(house(), <MatrixView onOpen={vi.fn()} />);
  vi.stubGlobal("fetch", own);
  return server;
}

describe("a proof that takes its time", () => {
  it("says how many cells are proved, and can be cancelled and begun again", async () => {
    const server = shown({ done: 7, of: 72 });
    expect(await screen.findByText("7 of 72 cells proved.")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Cancel the proof" }));
    await waitFor(() => expect(server.asked).toContain(`DELETE ${matrix}/progress`));
    server.ends(
      { status: 409, title: "Conflict", kind: "cancelled", detail: "The proof was cancelled." },
      409,
    );
    expect(await screen.findByText("The proof was cancelled.")).toBeTruthy();
    const before = server.asked.filter((one) => one === `GET ${matrix}`).length;
    fireEvent.click(screen.getByRole("button", { name: "Prove the room" }));
    await waitFor(() =>
      expect(server.asked.filter((one) => one === `GET ${matrix}`).length).toBe(before + 1),
    );
  });

  it("that waits for another one says so", async () => {
    const server = shown({ done: 0, of: 0 });
    expect(await screen.findByText("The proof waits for another one to end.")).toBeTruthy();
    expect(server.asked).toContain(`GET ${matrix}`);
  });
});
