import { ProblemError } from "./client";

const AGAIN_AFTER_MS = 700;

/** For queries that the bench answers once it has made something ready: asked again as long as it says so. */
export const patient = {
  retry: (_: number, error: Error) => error instanceof ProblemError && error.status === 503,
  retryDelay: AGAIN_AFTER_MS,
};
