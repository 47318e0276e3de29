import { useRouteError } from "react-router";
import { Empty, LinkButton } from "../ui";

/** An address that leads nowhere, or a screen that broke. */
export function Lost() {
  const error = useRouteError();
  return (
    <Empty alone title={error instanceof Error ? "This screen broke." : "Nothing is kept at this address."}>
      {error instanceof Error && <p className="font-mono text-sm">{error.message}</p>}
      <LinkButton to="/" look="main">
        Go to the registers
      </LinkButton>
    </Empty>
  );
}
