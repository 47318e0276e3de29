import { useParams, useSearchParams } from "react-router";
import { Button, Faces, MAIN_MENU, Menu, notify, Page, Pane } from "../../ui";
import { EntryPane } from "./EntryPane";
import { EntryTable } from "./EntryTable";
import { Filters } from "./Filters";
import { type Sought, tableAddress, useJournal, useVerify } from "./queries";
import { Verified } from "./Verified";

const NAMES = ["actor", "kind", "since", "until", "words", "record", "golden_key"] as const;

/** What was done in a register, by whom, when and why: for who asks a year later. */
export function JournalPage() {
  const { slug = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const sought = Object.fromEntries(NAMES.map((name) => [name, params.get(name) ?? ""])) as unknown as Sought;
  const chosen = Number(params.get("entry") ?? 0);
  const set = (changed: Record<string, string>) =>
    setParams(
      Object.fromEntries(Object.entries({ ...sought, entry: "", ...changed }).filter(([, value]) => value !== "")),
      { replace: true },
    );
  const verify = useVerify(slug);
  const journal = useJournal(slug, sought);
  const entries = journal.data?.pages.flatMap((page) => page.entries) ?? [];
  return (
    <Page
      title="Journal"
      about="Every act, sealed to the one before it."
      actions={
        <>
          <Button
            disabled={verify.isPending}
            onClick={() => verify.mutate(undefined, { onError: (error) => notify(error, true) })}
          >
            Verify it
          </Button>
          <Menu
            className={MAIN_MENU}
            entries={[
              { label: "CSV", hint: "what is shown, all of it", href: tableAddress(slug, "csv", sought) },
              { label: "JSON Lines", hint: "what is shown, all of it", href: tableAddress(slug, "jsonl", sought) },
            ]}
          >
            Take along ▾
          </Menu>
        </>
      }
    >
      <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_26rem] grid-rows-[auto_minmax(0,1fr)]">
        <div className="col-span-2 border-b border-line px-4 py-2">
          <Filters slug={slug} sought={sought} onChange={set} />
          <Verified slug={slug} asked={verify.data} />
        </div>
        <Pane label="Entries" className="px-4">
          <Faces query={journal}>
            {() => (
              <EntryTable
                entries={entries}
                chosen={chosen}
                onChoose={(entry) => set({ entry: String(entry) })}
                more={journal.hasNextPage}
                busy={journal.isFetchingNextPage}
                onMore={() => void journal.fetchNextPage()}
              />
            )}
          </Faces>
        </Pane>
        <EntryPane slug={slug} entryId={chosen || (entries[0]?.id ?? 0)} onFind={set} />
      </div>
    </Page>
  );
}
