import { ProblemError } from "./client";
import { myName } from "./me";

/** Send a file as the body itself, so that a large one is never copied into a form. */
export async function sendFile<T>(method: "POST" | "PUT", path: string, file: File): Promise<T> {
  const name = myName();
  const answer = await fetch(path, {
    method,
    headers: { "Content-Type": "application/octet-stream", ...(name && { "X-Actor": encodeURIComponent(name) }) },
    body: file,
  });
  const body: unknown = await answer.json();
  if (answer.ok) return body as T;
  throw new ProblemError((body as { detail: string }).detail, answer.status);
}
