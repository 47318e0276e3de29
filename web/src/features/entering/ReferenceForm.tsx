import { useState } from "react";
import { Button, TextField, Trouble } from "../../ui";
import { useReference, useSetReference } from "./queries";

/** Which trusted reference values can be taken from. */
export function ReferenceForm({ slug }: { slug: string }) {
  const reference = useReference(slug);
  if (reference.data === undefined) return null;
  return <Form slug={slug} known={reference.data} />;
}

function Form({ slug, known }: { slug: string; known: { name: string; address: string } | null }) {
  const set = useSetReference(slug);
  const [name, setName] = useState(known?.name ?? "");
  const [address, setAddress] = useState(known?.address ?? "");
  return (
    <section aria-label="Trusted reference" className="mt-4 border-t border-line pt-3">
      <h2 className="mb-2 text-sm font-semibold">A trusted reference that values can be filled in from</h2>
      <form
        className="flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          set.mutate({ name: name.trim(), address: address.trim() });
        }}
      >
        <TextField label="Its name" value={name} maxLength={80} onChange={(event) => setName(event.target.value)} />
        <div className="flex-1">
          <TextField
            label="Its address"
            placeholder="http://127.0.0.1:8481/"
            value={address}
            maxLength={2000}
            onChange={(event) => setAddress(event.target.value)}
          />
        </div>
        <Button needs="automate" type="submit" disabled={set.isPending || name.trim() === "" || address.trim() === ""}>
          {known ? "Change" : "Ask it"}
        </Button>
        {known && (
          <Button needs="automate" disabled={set.isPending} onClick={() => set.mutate(null)}>
            Ask it no more
          </Button>
        )}
      </form>
      {set.error && <Trouble error={set.error} />}
      {set.isSuccess && <p className="mt-1 text-sm text-soft">Done.</p>}
    </section>
  );
}
