import { useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { Button, Empty, Faces, Page, Pane, useKeys } from "../../ui";
import { FilterBar, STATES } from "./FilterBar";
import { PolicyDialog } from "./PolicyDialog";
import { ProposalActions } from "./ProposalActions";
import { ProposalList } from "./ProposalList";
import { ProposalView } from "./ProposalView";
import { useProposals, type Wanted } from "./queries";
import { SendBackDialog } from "./SendBackDialog";
import { SignManyDialog } from "./SignManyDialog";
import { useActing } from "./useActing";

type Open = "policy" | "many" | "back" | null;

/** What waits for a second yes: seen as what it will do, signed, or sent back. */
export function SignOffPage() {
  const { slug = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const [open, setOpen] = useState<Open>(null);
  const wanted: Wanted = {
    state: STATES.find((state) => state === params.get("state")) ?? "waiting",
    act: params.get("act") ?? "",
    why: params.get("why") ?? "",
    proposed_by: params.get("by") ?? "",
  };
  const query = useProposals(slug, wanted);
  const pages = query.data?.pages ?? [];
  const proposals = pages.flatMap((page) => page.proposals);
  const place = Math.max(
    proposals.findIndex((proposal) => `${proposal.id}` === params.get("id")),
    0,
  );
  const chosen = proposals[place];
  const set = (changes: Record<string, string>) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        for (const [name, value] of Object.entries(changes)) value ? next.set(name, value) : next.delete(name);
        return next;
      },
      { replace: true },
    );
  const step = (by: number) => {
    const next = proposals[place + by];
    if (next) set({ id: `${next.id}` });
  };
  const acting = useActing(
    slug,
    chosen,
    () => set({ id: `${(proposals[place + 1] ?? proposals[place - 1])?.id ?? ""}` }),
    () => setOpen("back"),
  );
  const maySign = chosen?.state === "waiting" && !chosen.why_not_you;
  useKeys([
    { key: "ArrowDown", label: "Next proposal", run: () => step(1) },
    { key: "ArrowUp", label: "Previous proposal", run: () => step(-1) },
    { key: "y", needs: "sign off", label: "Sign off", run: () => maySign && !acting.busy && acting.sign() },
    { key: "b", needs: "sign off", label: "Send back with a reason", run: () => maySign && setOpen("back") },
  ]);
  return (
    <Page
      title="Sign-off"
      about="What others decided and is not in force yet."
      actions={
        <>
          {wanted.state === "waiting" && proposals.length > 1 && (
            <Button needs="sign off" onClick={() => setOpen("many")}>
              Sign all of these
            </Button>
          )}
          <Button onClick={() => setOpen("policy")}>What needs a second yes</Button>
        </>
      }
    >
      <div className="flex h-full flex-col">
        <FilterBar
          wanted={wanted}
          page={pages[0]}
          shown={proposals.length}
          onChange={(changes) => set({ ...changes, id: "" })}
        />
        <div className="grid min-h-0 flex-1 grid-cols-[24rem_minmax(0,1fr)]">
          <Pane label="Proposals" className="border-r border-line">
            <Faces query={query}>
              {() => (
                <ProposalList
                  proposals={proposals}
                  chosen={chosen}
                  state={wanted.state}
                  onChoose={(proposal) => set({ id: `${proposal.id}` })}
                  onMore={query.hasNextPage ? () => void query.fetchNextPage() : undefined}
                />
              )}
            </Faces>
          </Pane>
          <Pane label="The proposal">
            {chosen ? (
              <ProposalView slug={slug} proposal={chosen}>
                <ProposalActions proposal={chosen} acting={acting} />
              </ProposalView>
            ) : (
              pages.length > 0 && (
                <Empty title="Nothing to look at.">
                  <p>What needs a second yes in this register comes up here as soon as somebody proposes it.</p>
                </Empty>
              )
            )}
          </Pane>
        </div>
      </div>
      {open === "policy" && <PolicyDialog slug={slug} onClose={() => setOpen(null)} />}
      {open === "many" && <SignManyDialog slug={slug} wanted={wanted} onClose={() => setOpen(null)} />}
      {open === "back" && chosen && <SendBackDialog slug={slug} proposal={chosen} onClose={() => setOpen(null)} />}
    </Page>
  );
}
