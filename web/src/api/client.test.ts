import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { data, RequestError, setWho, whoAmI } from "./client";
import { put, retry } from "./queries";

const answer = (status: number, body: { data?: unknown; error?: unknown }) =>
  Promise.resolve({ ...body, response: new Response(null, { status }) });

const problem = (status: number, kind: string) => ({
  type: "about:blank",
  title: "Conflict",
  status,
  kind,
  detail: "Lantern was changed in the meantime.",
});

async function failure(promise: Promise<unknown>): Promise<RequestError> {
  try {
    await promise;
  } catch (error) {
    if (error instanceof RequestError) return error;
  }
  throw new Error("it did not fail as it should");
}

describe("what comes back from the server", () => {
  it("is handed on where it is right", async () => {
    expect(await data(answer(200, { data: [1, 2] }))).toEqual([1, 2]);
  });

  it("is a sentence of the server where it is a problem", async () => {
    const error = await failure(data(answer(409, { error: problem(409, "stale") })));
    expect(error.message).toBe("Lantern was changed in the meantime.");
    expect(error.passing).toBe(false);
  });

  it("is waited for where the database is away", async () => {
    const error = await failure(data(answer(503, { error: problem(503, "unreachable") })));
    expect(error.passing).toBe(true);
    expect(retry(7, error)).toBe(true);
  });

  it("is waited for where there is no server at all", async () => {
    const error = await failure(data(Promise.reject(new TypeError("failed to fetch"))));
    expect(error.message).toContain("What you typed is still here");
    expect(retry(0, error)).toBe(true);
  });

  it.each([502, 504])("a bare %d of something between counts as no answer", async (status) => {
    expect((await failure(data(answer(status, {})))).passing).toBe(true);
  });

  it("names the status where there is no explanation", async () => {
    const error = await failure(data(answer(418, { error: "<html>" })));
    expect(error.message).toBe("The server answered with status 418 and no explanation.");
    expect(retry(0, error)).toBe(false);
  });

  it("is final for errors that are not the server's", () => {
    expect(retry(0, new Error("a bug"))).toBe(false);
  });
});

describe("an edit", () => {
  const house = { entity: "house" as const, value: { id: "h", name: "Marram Point" } };

  it("names the version that it was made from, or that there is none", () => {
    expect(put(house, 3)).toEqual({ do: "put", entity: house, base: 3 });
    expect(put(house, undefined)).toEqual({ do: "put", entity: house, base: null });
  });
});

describe("the name in the log", () => {
  const kept = new Map<string, string>();
  beforeEach(() => {
    vi.stubGlobal("localStorage", {
      getItem: (key: string) => kept.get(key) ?? null,
      setItem: (key: string, value: string) => kept.set(key, value),
    });
  });
  afterEach(() => {
    vi.unstubAllGlobals();
    kept.clear();
  });

  it("is empty at first, and kept without blanks around it", () => {
    expect(whoAmI()).toBe("");
    setWho("  the bench in the hall ");
    expect(whoAmI()).toBe("the bench in the hall");
  });
});
