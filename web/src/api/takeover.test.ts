import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { describe, expect, it, vi } from "vitest";
import { keys, takeOver } from "./queries";
import type { Changed } from "./types";

const changed = { house: "h", revision: 2, put: [], taken: [], undo: null, redo: null } as unknown as Changed;

/** Notes that are asked for, each answer given when the test says so. */
function asked() {
  const queries = new QueryClient();
  const answers: ((notes: string) => void)[] = [];
  const notes = new QueryObserver(queries, {
    queryKey: keys.notes("h", "hall"),
    queryFn: () => new Promise<string>((answer) => void answers.push(answer)),
  });
  const close = notes.subscribe(() => undefined);
  return { queries, answers, notes: () => notes.getCurrentResult().data, close };
}

describe("what follows from a house", () => {
  it("is asked anew after a change, also where its first answer is still on its way", async () => {
    const { queries, answers, notes, close } = asked();
    expect(answers).toHaveLength(1);
    takeOver(queries, changed);
    await vi.waitFor(() => expect(answers).toHaveLength(2));
    answers[1]?.("after the change");
    await vi.waitFor(() => expect(notes()).toBe("after the change"));
    answers[0]?.("before the change");
    await new Promise((resolve) => setTimeout(resolve, 20));
    expect(notes()).toBe("after the change");
    close();
  });

  it("stays on the screen until the new answer is there", async () => {
    const { queries, answers, notes, close } = asked();
    answers[0]?.("before the change");
    await vi.waitFor(() => expect(notes()).toBe("before the change"));
    takeOver(queries, changed);
    await vi.waitFor(() => expect(answers).toHaveLength(2));
    expect(notes()).toBe("before the change");
    answers[1]?.("after the change");
    await vi.waitFor(() => expect(notes()).toBe("after the change"));
    close();
  });

  it("of another house is left alone", async () => {
    const { queries, answers, close } = asked();
    answers[0]?.("mine");
    takeOver(queries, { ...changed, house: "other" });
    await new Promise((resolve) => setTimeout(resolve, 20));
    expect(answers).toHaveLength(1);
    close();
  });
});
