import createClient from "openapi-fetch";
import { myName } from "./me";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];

/** What the server said when it refused: RFC 9457 problem details. */
export class ProblemError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly problems: readonly string[] = [],
  ) {
    super(message);
    this.name = "ProblemError";
  }
}

/** What was asked for needs a second yes: nothing is done yet, and a proposal waits for it. */
export class WaitsForSignOff extends Error {
  override name = "WaitsForSignOff";
}

const PROPOSAL = "X-Waits-For-Sign-Off";

/** Nobody waits longer for an answer; whoever hangs is told to have died. */
const LONGEST_READ_MS = 60_000;

export const client = createClient<paths>({
  baseUrl: location.origin,
  // Looked up at each call, so that tests can stand in for the server.
  fetch: (request) =>
    globalThis.fetch(request, request.method === "GET" ? { signal: AbortSignal.timeout(LONGEST_READ_MS) } : {}),
});

// Names are told in ASCII letters, as headers have to be.
client.use({
  onRequest({ request }) {
    const name = myName();
    if (name) request.headers.set("X-Actor", encodeURIComponent(name));
    return request;
  },
});

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

function isProblem(value: unknown): value is { detail: string; problems?: string[] } {
  return typeof value === "object" && value !== null && "detail" in value && typeof value.detail === "string";
}

/** Turn an answer into its data, or throw the problem it describes. */
export async function unwrap<T>(asked: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await asked;
  } catch {
    throw new ProblemError("Odd Pair does not answer. Is it still running?", 0);
  }
  if (answer.response.headers.has(PROPOSAL)) {
    const told: unknown = answer.data;
    throw new WaitsForSignOff(isProblem(told) ? told.detail : "It waits for sign-off; nothing is changed until then.");
  }
  if (answer.response.ok) return answer.data as T;
  if (isProblem(answer.error)) {
    throw new ProblemError(answer.error.detail, answer.response.status, answer.error.problems ?? []);
  }
  throw new ProblemError(`The server answered with status ${answer.response.status}.`, answer.response.status);
}
