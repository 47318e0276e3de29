import { type InfiniteData, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { WaitsForSignOff } from "../../api/client";
import { notify } from "../../ui";
import {
  type Contradiction,
  type DecisionIn,
  type Pair,
  type Queue,
  type Queued,
  useDecide,
  useTakeBack,
  type Verdict,
} from "./queries";
import type { Desk } from "./useDesk";
import { useSecondLook } from "./useSecondLook";

/** The queue without a doubt that was decided, or that somebody else decides (then as many wait as before). */
export function without<T>(data: InfiniteData<Queue, T>, gone: Queued, decided = 1): InfiniteData<Queue, T> {
  const pages = data.pages.map((page) => ({
    ...page,
    waiting: page.waiting - (gone.put_off ? 0 : decided),
    put_off: page.put_off - (gone.put_off ? decided : 0),
    doubts: page.doubts.filter((item) => item !== gone),
  }));
  return { ...data, pages };
}

/** Let the doubt in view leave the queue, and go on to the next one; `decided` is 0 where somebody else has it. */
export function useGoOn(desk: Desk) {
  const queries = useQueryClient();
  return (decided = 1) => {
    const gone = desk.doubts[desk.place];
    const next = desk.doubts[desk.place + 1] ?? desk.doubts[desk.place - 1];
    if (gone) queries.setQueryData(desk.options.queryKey, (present) => present && without(present, gone, decided));
    desk.open(next);
  };
}

type More = Partial<Pick<DecisionIn, "remark" | "until" | "asked">>;

/** Deciding pairs and taking back. The decided pair leaves the queue at once and the next one comes into view. */
export function useVerdicts(desk: Desk, pair: Pair | undefined) {
  const decide = useDecide(desk.slug);
  const takeBack = useTakeBack(desk.slug);
  const look = useSecondLook(desk.slug);
  const goOn = useGoOn(desk);
  const [contradicts, setContradicts] = useState<Contradiction[]>([]);
  // What is under way at the server: taking back must see its end, or it would take back the decision before.
  const underWay = useRef<Promise<unknown>>(Promise.resolve());
  const justDecided = useRef("");
  const isAgain = pair !== undefined && look.isLook(pair.left.id, pair.right.id);

  /** Send a decision; if it does not arrive, it is told, and can be sent again as it was: one is at another pair by then. */
  const send = (decision: DecisionIn): Promise<void> =>
    decide
      .mutateAsync(decision)
      .then(
        (decided) => {
          if (decided.contradicts.length > 0) setContradicts(decided.contradicts);
        },
        (error: Error) => {
          justDecided.current = "";
          if (error instanceof WaitsForSignOff) return;
          const again = () => {
            underWay.current = send(decision);
          };
          notify(error, true, { label: "Send it again", run: again });
        },
      )
      // Others decide too, and further pairs may have come into doubt: the server says whether anything is left.
      .finally(() => desk.doubts.length <= 1 && void desk.queue.refetch());

  const say = (verdict: Verdict, { remark = "", until = null, asked = "" }: More = {}) => {
    // A key held down must not decide the pair twice before the next one is in view; one reached again by Back may be.
    const state = pair ? `${pair.left.id}-${pair.right.id}-${pair.decision?.id ?? 0}` : "";
    if (!pair || justDecided.current === state) return;
    justDecided.current = state;
    if (isAgain) {
      underWay.current = look.keep(verdict).catch((error: Error) => notify(error, true));
      return goOn();
    }
    underWay.current = send({
      left_id: pair.left.id,
      right_id: pair.right.id,
      verdict,
      remark,
      until,
      asked,
      seen_decision: pair.decision?.id ?? null,
    });
    goOn();
    void look.next().then((again) => again && desk.open({ ...again, what: "pair", cluster: 0 }));
  };
  const takeBackLatest = async () => {
    const taken = await takeBack.mutateAsync();
    justDecided.current = "";
    const what = taken.what === "many" ? `${taken.count} decisions made in one step` : `“${taken.verdict}”`;
    notify(`Took back ${what}.`);
    if (taken.what !== "many") desk.open({ ...taken, what: taken.what, cluster: taken.left_id });
  };
  const undo = () => {
    underWay.current = underWay.current.then(takeBackLatest).catch((error: Error) => notify(error, true));
  };
  return {
    say,
    undo,
    isDeciding: decide.isPending,
    isAgain,
    contradicts,
    forgetContradictions: () => setContradicts([]),
  };
}
