import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { RequestError, surely } from "./client";

const lost = new RequestError({
  type: "about:blank",
  title: "No answer",
  status: 0,
  kind: "unreachable",
  detail: "lost",
});
const refused = new RequestError({
  type: "about:blank",
  title: "No",
  status: 422,
  kind: "refused",
  detail: "no",
});

beforeEach(() => {
  vi.useFakeTimers();
});

afterEach(() => {
  vi.useRealTimers();
});

/** Answers in turn, and remembers under which name each was asked. */
function server(...answers: (string | Error)[]) {
  const names: string[] = [];
  const send = (headers: Record<string, string>) => {
    names.push(headers["kestrel-request"] ?? "");
    const answer = answers.shift();
    return answer instanceof Error ? Promise.reject(answer) : Promise.resolve(answer);
  };
  return { names, send };
}

describe("a change that is asked for", () => {
  it("is asked for once where it is answered", async () => {
    const { names, send } = server("saved");
    expect(await surely(send)).toBe("saved");
    expect(names).toHaveLength(1);
  });

  it("is asked for again under the same name where the answer was lost", async () => {
    const { names, send } = server(lost, "saved");
    const done = surely(send);
    await vi.runAllTimersAsync();
    expect(await done).toBe("saved");
    expect(names).toHaveLength(2);
    expect(names[0]).toBe(names[1]);
  });

  it("is not asked for again where it was refused", async () => {
    const { names, send } = server(refused, "saved");
    await expect(surely(send)).rejects.toBe(refused);
    expect(names).toHaveLength(1);
  });
});
