import { useEffect } from "react";
import { useParams, useSearchParams } from "react-router";
import { useSources } from "../../api/sources";
import { Button, Choice, Empty, Faces, MAIN_MENU, Menu, Page, Pane, type Tab, Tabs } from "../../ui";
import { BridgeTable } from "./BridgeTable";
import { type Between, type BridgeState, STATES, useBridge, useBridgeCounts } from "./queries";

const SAYS: Record<BridgeState, string> = {
  known: "of one golden record, or decided to be the same",
  proposed: "the run holds the two for the same; not merged yet",
  several: "more than one record of the other source",
  "in doubt": "a pair that waits at the review desk",
  none: "no partner in the other source",
};

const FEW = 40;
const FORMATS = [
  ["csv", "CSV"],
  ["xlsx", "XLSX"],
  ["jsonl", "JSON Lines"],
] as const;

/** The ids of one source against those of another: known, proposed, mapped by hand, and what has no partner on either side. */
export function BridgePage() {
  const { slug = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const names = (useSources(slug).data ?? []).map(({ name }) => name);
  const between: Between = {
    one: params.get("one") ?? names[0] ?? "",
    other: params.get("other") ?? names.find((name) => name !== (params.get("one") ?? names[0])) ?? "",
  };
  const state = (params.get("state") ?? "") as BridgeState | "";
  const set = (values: Record<string, string>) =>
    setParams({ ...between, ...(state && { state }), ...values }, { replace: true });
  const counts = useBridgeCounts(slug, between);
  const bridge = useBridge(slug, between, state);
  const rows = bridge.data?.pages.flatMap((page) => page.rows) ?? [];
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = bridge;
  // A page of a rare state looks through a part of the records only, and may hold none of them.
  useEffect(() => {
    if (rows.length < FEW && hasNextPage && !isFetchingNextPage) void fetchNextPage();
  }, [rows.length, hasNextPage, isFetchingNextPage, fetchNextPage]);
  const options = names.map((name) => ({ value: name, label: name }));
  const all = Object.values(counts.data ?? {}).reduce((sum, value) => sum + value, 0);
  const tabs: Tab<BridgeState | "">[] = [
    { tab: "", label: "all", figure: counts.data && all },
    ...STATES.map((one) => ({ tab: one, label: one, title: SAYS[one], figure: counts.data?.[one] })),
  ];
  const table = `/api/registers/${slug}/bridge/table`;
  return (
    <Page
      title="Bridge"
      about="The ids of one source against those of another; what is mapped by hand counts everywhere."
      actions={
        <>
          <Choice
            label="From source"
            value={between.one}
            options={options}
            onChange={(one) => set({ one })}
            className="w-36"
          />
          <Button
            aria-label="Look from the other side"
            title="Look from the other side"
            onClick={() => set({ one: between.other, other: between.one })}
          >
            ⇄
          </Button>
          <Choice
            label="To source"
            value={between.other}
            options={options}
            onChange={(other) => set({ other })}
            className="w-36"
          />
          <Menu
            entries={FORMATS.map(([format, label]) => ({
              label: `As ${label}`,
              href: `${table}.${format}?${new URLSearchParams({ ...between })}`,
            }))}
            className={MAIN_MENU}
          >
            Send out ▾
          </Menu>
        </>
      }
    >
      {names.length < 2 || between.one === between.other ? (
        <Empty title="A bridge leads from one source to another.">
          <p>{names.length < 2 ? "This register has one source only." : "Choose two that differ."}</p>
        </Empty>
      ) : (
        <div className="flex h-full min-h-0 flex-col">
          <div className="border-b border-line px-4 pt-1">
            <Tabs
              label="States"
              tabs={tabs}
              chosen={state}
              onChoose={(one) => setParams({ ...between, ...(one && { state: one }) }, { replace: true })}
            />
          </div>
          <Pane label="The bridge" className="flex-1 px-4">
            <Faces query={bridge}>
              {() => (
                <BridgeTable
                  slug={slug}
                  between={between}
                  rows={rows}
                  more={hasNextPage}
                  onMore={() => void fetchNextPage()}
                />
              )}
            </Faces>
          </Pane>
        </div>
      )}
    </Page>
  );
}
