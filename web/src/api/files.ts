import { cancelled } from "./cancel";
import { RequestError } from "./client";
import type { Problem } from "./types";

/** Sends a file as it is; gives the answer. */
export async function sendFile<T>(path: string, file: File, signal?: AbortSignal): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(path, { method: "POST", body: file, signal: signal ?? null });
  } catch {
    if (signal?.aborted)
      throw cancelled("Cancelled. The shelf shows whether it had been carried out already.");
    const detail =
      "The server cannot be reached, or it closed the connection. The file is still yours: try again.";
    throw new RequestError({
      type: "about:blank",
      title: "No answer",
      status: 0,
      kind: "unreachable",
      detail,
    });
  }
  const body = (await answer.json().catch(() => undefined)) as T | Problem | undefined;
  if (answer.ok && body !== undefined) return body as T;
  const problem = body as Partial<Problem> | undefined;
  const detail = problem?.detail ?? `The server answered with status ${answer.status} and no explanation.`;
  throw new RequestError({
    type: "about:blank",
    title: "Refused",
    status: answer.status,
    kind: problem?.kind ?? "refused",
    detail,
  });
}
