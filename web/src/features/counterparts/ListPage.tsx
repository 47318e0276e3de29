import { useParams, useSearchParams } from "react-router";
import { moment } from "../../domain/format";
import { Button, Empty, Faces, MAIN_MENU, Menu, notify, Page, Search } from "../../ui";
import { OutcomeTabs } from "./OutcomeTabs";
import { type CounterpartList, type Outcome, useList, useRunList } from "./queries";
import { RowsDesk } from "./RowsDesk";
import { SettingsDialog } from "./SettingsDialog";
import { UnmatchedGolden } from "./UnmatchedGolden";

const FORMATS = [
  ["csv", "CSV"],
  ["xlsx", "XLSX"],
  ["jsonl", "JSON Lines"],
] as const;

function sendOuts(slug: string, name: string, outcome: string) {
  const base = `/api/registers/${slug}/counterparts/${encodeURIComponent(name)}/table`;
  return FORMATS.map(([format, label]) => ({
    label: outcome ? `Rows "${outcome}" as ${label}` : `All rows as ${label}`,
    href: `${base}.${format}${outcome ? `?outcome=${outcome}` : ""}`,
  }));
}

function about(list: CounterpartList | undefined) {
  if (!list) return "";
  if (!list.ran_at) return `${list.file_name}, not looked up yet`;
  const stale = list.stale && <span className="text-rust"> · the register changed since</span>;
  return (
    <>
      {list.file_name}, looked up {moment(list.ran_at)}
      {stale}
    </>
  );
}

/** A counterpart list: rows by outcome on the left, the one in view beside its candidates on the right. */
export function ListPage() {
  const { slug = "", list: name = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const list = useList(slug, name);
  const run = useRunList(slug, name);
  const outcome = (params.get("outcome") ?? "") as Outcome | "by hand" | "register";
  const set = (values: Record<string, string>) =>
    setParams(
      (present) => {
        for (const [key, value] of Object.entries(values)) value ? present.set(key, value) : present.delete(key);
        return present;
      },
      { replace: true },
    );
  const start = () =>
    run.mutate(undefined, {
      onSuccess: () => notify("The rows are being looked up; the line below says how far it is."),
      onError: (error) => notify(error, true),
    });
  const plain = outcome === "by hand" || outcome === "register" ? "" : outcome;
  return (
    <Page
      title={name}
      about={about(list.data)}
      actions={
        <>
          <Search label="Search the rows" value={params.get("search") ?? ""} onChange={(search) => set({ search })} />
          <Button needs="pair up" onClick={() => set({ open: "settings" })}>
            How it is looked up…
          </Button>
          <Button needs="pair up" look={list.data?.ran_at ? "plain" : "main"} disabled={run.isPending} onClick={start}>
            Look the rows up{list.data?.ran_at ? " again" : ""}
          </Button>
          {list.data?.ran_at && (
            <Menu entries={sendOuts(slug, name, plain)} className={MAIN_MENU}>
              Send out ▾
            </Menu>
          )}
        </>
      }
    >
      <Faces query={list}>
        {(data) =>
          data.counts ? (
            <div className="flex h-full min-h-0 flex-col">
              <OutcomeTabs counts={data.counts} chosen={outcome} onChoose={(next) => set({ outcome: next })} />
              {outcome === "register" ? (
                <UnmatchedGolden slug={slug} name={name} />
              ) : (
                <RowsDesk
                  slug={slug}
                  list={data}
                  asked={{ outcome: plain, search: params.get("search") ?? "", by_hand: outcome === "by hand" }}
                />
              )}
            </div>
          ) : (
            <Empty title="The rows were not looked up yet.">
              <p>Check how the columns are read and which limits hold, then look the rows up.</p>
              <Button needs="pair up" onClick={() => set({ open: "settings" })}>
                How it is looked up…
              </Button>
            </Empty>
          )
        }
      </Faces>
      {params.get("open") === "settings" && list.data && (
        <SettingsDialog slug={slug} list={list.data} onClose={() => set({ open: "" })} />
      )}
    </Page>
  );
}
