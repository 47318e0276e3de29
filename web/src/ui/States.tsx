import type { ReactNode } from "react";
import { ProblemError, WaitsForSignOff } from "../api/client";
import { Button } from "./Button";

/** The shape of what comes, while it is fetched. */
export function Loading({ rows = 8 }: { rows?: number }) {
  return (
    <div role="status" aria-label="Loading" className="space-y-2 p-4">
      {Array.from({ length: rows }, (_, place) => (
        <div
          key={place}
          className="h-5 animate-pulse rounded-[2px] bg-sunk"
          style={{ width: `${92 - ((place * 17) % 40)}%` }}
        />
      ))}
    </div>
  );
}

/** Nothing here: says what to do next. `alone` makes its title the heading of the screen. */
export function Empty({ title, alone = false, children }: { title: string; alone?: boolean; children?: ReactNode }) {
  return (
    <div className="mx-auto max-w-md px-6 py-14 text-center">
      {alone ? <h1 className="text-lg font-semibold">{title}</h1> : <p className="text-lg font-semibold">{title}</p>}
      <div className="mt-2 space-y-3 text-soft">{children}</div>
    </div>
  );
}

/** What went wrong, to what, and the way out; or that it waits for sign-off. */
export function Trouble({ error, onRetry }: { error: Error; onRetry?: () => void }) {
  if (error instanceof WaitsForSignOff)
    return (
      <p role="status" className="rounded-[3px] border border-plum bg-plum-wash p-3 text-sm">
        {error.message}
      </p>
    );
  const problems = error instanceof ProblemError ? error.problems : [];
  return (
    <div role="alert" className="rounded-[3px] border border-rust bg-rust-wash p-3 text-sm">
      {problems.length > 1 ? (
        <ul className="list-disc space-y-1 pl-5">
          {problems.map((problem) => (
            <li key={problem}>{problem}</li>
          ))}
        </ul>
      ) : (
        <p>{error.message}</p>
      )}
      {onRetry && (
        <Button className="mt-2" onClick={onRetry}>
          Try again
        </Button>
      )}
    </div>
  );
}

interface Asked<T> {
  data: T | undefined;
  error: Error | null;
  refetch: () => unknown;
}

/** Shows one of the faces of a query: loading, error, or its data. */
export function Faces<T>({
  query,
  children,
  rows,
}: {
  query: Asked<T>;
  children: (data: T) => ReactNode;
  rows?: number;
}) {
  if (query.data !== undefined) return children(query.data);
  if (query.error)
    return (
      <div className="p-4">
        <Trouble error={query.error} onRetry={() => query.refetch()} />
      </div>
    );
  return <Loading {...(rows === undefined ? {} : { rows })} />;
}
