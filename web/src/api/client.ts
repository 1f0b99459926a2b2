import createClient from "openapi-fetch";
import type { paths } from "./schema";
import type { Problem } from "./types";

/** What went wrong with a request: a problem of the server, or no answer at all. */
export class RequestError extends Error {
  readonly problem: Problem;

  constructor(problem: Problem) {
    super(problem.detail);
    this.problem = problem;
  }

  /** Could the same request succeed later without any change? */
  get passing(): boolean {
    return this.problem.status === 503 || this.problem.status === 0;
  }
}

const WHO = "kestrel-who";

/** The name under which edits of this browser stand in the log. */
export function whoAmI(): string {
  return localStorage.getItem(WHO) ?? "";
}

/** Sets the name under which edits of this browser stand in the log. */
export function setWho(name: string): void {
  localStorage.setItem(WHO, name.trim());
}

/** Said where the server wants a password before it answers. */
export const SIGN_IN = "kestrel-sign-in";

/** This page's own name, so that it knows its own changes when they are announced. */
export const PAGE: string = crypto.randomUUID();

// The page’s own origin; none where there is no page.
const client = createClient<paths>({
  baseUrl: typeof location === "undefined" ? "/" : location.origin,
  fetch: (request) => globalThis.fetch(request),
});

client.use({
  onRequest({ request }) {
    const who = whoAmI();
    // Header values are Latin-1: a name in any script travels percent-encoded.
    if (who) request.headers.set("kestrel-who", encodeURIComponent(who));
    request.headers.set("kestrel-page", PAGE);
    return request;
  },
  onResponse({ request, response }) {
    const signing = request.url.endsWith("/api/session") && request.method === "POST";
    if (response.status === 401 && !signing) window.dispatchEvent(new Event(SIGN_IN));
    return response;
  },
});

/** The answer's data, or a [RequestError]. */
export async function data<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let settled;
  try {
    settled = await answer;
  } catch {
    throw new RequestError(lost(0));
  }
  if (settled.response.ok && (settled.data !== undefined || settled.response.status === 204)) {
    return settled.data as T;
  }
  const problem = settled.error as Partial<Problem> | undefined;
  if (problem && typeof problem.detail === "string") throw new RequestError(problem as Problem);
  throw new RequestError(lost(settled.response.status));
}

function lost(status: number): Problem {
  const unreachable = status === 0 || status >= 502;
  return {
    type: "about:blank",
    title: "No answer",
    status: unreachable ? 0 : status,
    kind: "unreachable",
    detail: unreachable
      ? "The server cannot be reached. What you typed is still here; it will be tried again."
      : `The server answered with status ${status} and no explanation.`,
  };
}

/**
 * Asks for a change under a name of its own. Where the answer is lost on the way, the same request is sent once more: the
 * server carries it out once, and tells what it did.
 */
export async function surely<T>(send: (headers: Record<string, string>) => Promise<T>): Promise<T> {
  const headers = { "kestrel-request": crypto.randomUUID() };
  try {
    return await send(headers);
  } catch (error) {
    const answered =
      !(error instanceof RequestError) || (error.problem.status !== 0 && error.problem.kind !== "unknown");
    if (answered) throw error;
  }
  await new Promise((resolve) => setTimeout(resolve, 600));
  return send(headers);
}

export { client };
