import { useState } from "react";
import { useParams } from "react-router";
import { useLayout, useRegister } from "../../api/registers";
import { useSources } from "../../api/sources";
import { counted } from "../../domain/format";
import { Button, Empty, LinkButton, Loading, notify, Page, Pane, TextField, Trouble } from "../../ui";
import { Composer } from "./Composer";
import { addressOf, type SendOut, USUAL, useSaveSendOut } from "./queries";
import { SavedSendOuts } from "./SavedSendOuts";

function Compose({ slug, waiting }: { slug: string; waiting: number }) {
  const [sendOut, setSendOut] = useState<SendOut>(USUAL);
  const [name, setName] = useState("");
  const fields = useLayout(slug).data?.fields ?? [];
  const sources = (useSources(slug).data ?? []).map((source) => source.name);
  const save = useSaveSendOut(slug);
  return (
    <div className="grid h-full min-h-0 grid-cols-[3fr_2fr]">
      <Pane label="What is sent out" className="px-4 py-1">
        <Composer
          sendOut={sendOut}
          fields={fields}
          sources={sources}
          onChange={(values) => setSendOut({ ...sendOut, ...values })}
        />
        <div className="flex flex-wrap items-end gap-3 py-3">
          <a
            className="inline-flex h-8 items-center rounded-[3px] border border-plum bg-plum px-2.5 text-sm font-medium text-plum-ink hover:opacity-90"
            href={addressOf(slug, sendOut)}
            download
          >
            Send out now
          </a>
          <form
            className="flex items-end gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              save.mutate(
                { name: name.trim(), sendOut },
                { onSuccess: (saved) => notify(`“${saved.name}” is saved.`) },
              );
            }}
          >
            <TextField
              label="Save it as"
              value={name}
              maxLength={80}
              onChange={(event) => setName(event.target.value)}
            />
            <Button needs="keep" type="submit" disabled={name.trim() === "" || save.isPending}>
              Save
            </Button>
          </form>
        </div>
        {save.error && <Trouble error={save.error} />}
        {waiting > 0 && (
          <p className="py-2 text-sm">
            {counted(waiting, "record")} came in since the last merge and stand in no golden record yet.
          </p>
        )}
      </Pane>
      <Pane label="Saved send-outs" className="border-l border-line bg-sunk px-4 py-3">
        <h2 className="mb-1 text-sm font-semibold">Saved send-outs</h2>
        <SavedSendOuts
          slug={slug}
          onOpen={(content, saved) => {
            setSendOut({ ...USUAL, ...content });
            setName(saved);
          }}
        />
        <p className="py-4 text-sm text-soft">
          Without a screen:{" "}
          <code className="font-mono">{`./odd-pair send-out ${slug} --out FOLDER --saved "NAME"`}</code>
        </p>
      </Pane>
    </div>
  );
}

/** Golden records, the crosswalk, keys and changes, to be taken along. */
export function SendOutPage() {
  const { slug = "" } = useParams();
  const register = useRegister(slug);
  if (!register) return <Loading />;
  const { counts } = register;
  return (
    <Page
      title="Send out"
      about={`${counted(counts.golden, "golden record")} in force`}
      actions={<LinkButton to={`/r/${slug}/send-out/told`}>Others are told…</LinkButton>}
    >
      {counts.golden === 0 ? (
        <Empty title="There is nothing to send yet.">
          <p>Golden records are made by a merge.</p>
          <LinkButton look="main" to={`/r/${slug}/golden/merge`}>
            Preview the merge
          </LinkButton>
        </Empty>
      ) : (
        <Compose slug={slug} waiting={counts.records_without_golden} />
      )}
    </Page>
  );
}
