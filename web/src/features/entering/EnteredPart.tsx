import { Link } from "react-router";
import { Button } from "../../ui";
import { type Entered, useEntry } from "./queries";

const DID: Record<string, string> = { use: "is used as it is", add: "was added to", create: "was created" };

interface Props {
  slug: string;
  entered: Entered;
  onNext: () => void;
}

/** What came of it: the golden record that was used, added to, or made. */
export function EnteredPart({ slug, entered, onNext }: Props) {
  const own = useEntry(slug, entered).data?.golden_key;
  const key = entered.act === "create" ? own : entered.golden_key;
  return (
    <section role="status" className="mx-auto max-w-md py-14 text-center">
      {key ? (
        <p className="text-lg font-semibold">
          <Link className="text-plum underline" to={`/r/${slug}/golden/${key}`}>
            {key}
          </Link>{" "}
          {DID[entered.act]}.
        </p>
      ) : (
        <p className="text-lg font-semibold">{entered.source_key} is entered, and being recognised…</p>
      )}
      {entered.source_key && (
        <p className="mt-2 text-soft">
          The record is {entered.source_key} of the source “{entered.source}”. Taking back its delivery undoes it.
        </p>
      )}
      <Button look="main" className="mt-4" onClick={onNext} autoFocus>
        Enter another
      </Button>
    </section>
  );
}
