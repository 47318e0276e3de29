import { useRef, useState } from "react";
import { client, unwrap } from "../../api/client";
import type { Decision, Verdict } from "./queries";

/** Of so many decisions one is followed by a decided pair, shown again unmarked. */
const EVERY = 20;

/** Decided pairs that come up again among the others: what is said of them is kept beside the decision, which stays. */
export function useSecondLook(slug: string) {
  const said = useRef(0);
  const [looked, setLooked] = useState<Decision | undefined>();

  /** After a decision: the pair for another look, if it is time for one. */
  const next = async (): Promise<Decision | undefined> => {
    said.current += 1;
    if (said.current % EVERY !== 0) return undefined;
    const [drawn] = await unwrap(
      client.GET("/api/registers/{slug}/second-looks/next", { params: { path: { slug } } }),
    ).catch(() => []);
    setLooked(drawn);
    return drawn;
  };
  const isLook = (leftId: number, rightId: number) => looked?.left_id === leftId && looked.right_id === rightId;
  const keep = async (verdict: Verdict) => {
    const again = looked;
    setLooked(undefined);
    if (!again || verdict === "later") return;
    const body = { left_id: again.left_id, right_id: again.right_id, verdict };
    await unwrap(client.POST("/api/registers/{slug}/second-looks", { params: { path: { slug } }, body }));
  };
  return { next, isLook, keep };
}
