import { useRouteError } from "react-router";
import { Button, Empty, LinkButton } from "../ui";

/** An address that leads nowhere, or a screen that broke. */
export function Lost() {
  const error = useRouteError();
  return (
    <Empty alone title={error instanceof Error ? "This screen broke." : "Nothing is kept at this address."}>
      {error instanceof Error && <p className="font-mono text-sm">{error.message}</p>}
      <div className="flex gap-3">
        {/* A screen that was fetched before Odd Pair was updated may miss parts that come later. */}
        {error instanceof Error && <Button onClick={() => location.reload()}>Load it again</Button>}
        <LinkButton to="/" look="main">
          Go to the registers
        </LinkButton>
      </div>
    </Empty>
  );
}
