import { useState } from "react";
import { useSearchParams } from "react-router";
import { Empty, Faces, type KeyBinding, notify, useKeys } from "../../ui";
import { FindingList } from "./FindingList";
import { FindingView } from "./FindingView";
import { type FindingsPlan, type State, useFindings, useSayOfFinding } from "./queries";

interface Props {
  slug: string;
  plan: FindingsPlan;
  own: string;
  state: State | "";
}

/** Findings in their groups and the one in view; all can be said by key. */
export function FindingsDesk({ slug, plan, own, state }: Props) {
  const [params, setParams] = useSearchParams();
  const [explaining, setExplaining] = useState(false);
  const query = useFindings(slug, plan.name, state);
  const say = useSayOfFinding(slug, plan.name);
  const findings = query.data?.pages.flatMap((page) => page.rows) ?? [];
  const at = findings.findIndex(({ place }) => `${place}` === params.get("finding"));
  const place = at >= 0 ? at : 0;
  const finding = findings[place];
  const show = (next: number) => {
    const chosen = findings[Math.max(0, Math.min(findings.length - 1, next))];
    if (!chosen) return;
    setExplaining(false);
    setParams(
      (present) => {
        present.set("finding", `${chosen.place}`);
        return present;
      },
      { replace: true },
    );
    if (next > findings.length - 20 && query.hasNextPage && !query.isFetchingNextPage) void query.fetchNextPage();
  };
  const tell = (said: State, remark = "") => {
    if (!finding) return;
    say.mutate(
      { place: finding.place, state: said, remark },
      {
        onSuccess: () => setExplaining(false),
        onError: (error) => notify(error, true),
      },
    );
    if (said !== "open") show(place + 1);
  };
  const bindings: KeyBinding[] = [
    { key: "ArrowDown", label: "Next finding", run: () => show(place + 1) },
    { key: "ArrowUp", label: "Previous finding", run: () => show(place - 1) },
    { key: "i", needs: "pair up", label: "Of interest", run: () => tell("of interest") },
    { key: "e", needs: "pair up", label: "Explained, with a reason", run: () => setExplaining(true) },
    { key: "n", needs: "pair up", label: "Not a finding", run: () => tell("not a finding") },
    { key: "u", needs: "pair up", label: "Take back what was said", run: () => tell("open") },
  ];
  useKeys(bindings);
  return (
    <Faces query={query}>
      {() =>
        finding ? (
          <div className="grid min-h-0 flex-1 grid-cols-[24rem_minmax(0,1fr)]">
            <FindingList findings={findings} place={place} onOpen={show} />
            <FindingView
              key={finding.place}
              slug={slug}
              plan={plan}
              own={own}
              finding={finding}
              explaining={explaining}
              onExplain={setExplaining}
              onSay={tell}
            />
          </div>
        ) : (
          <Empty title={state ? `No finding is ${state}.` : "The two registers share nothing that is looked for."} />
        )
      }
    </Faces>
  );
}
