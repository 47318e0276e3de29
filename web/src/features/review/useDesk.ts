import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { keepWithin } from "../../api/keys";
import { notify } from "../../ui";
import {
  type Order,
  type Pair,
  type Queue,
  type QueuedPair,
  queueOptions,
  useDecide,
  useLatestDecisions,
  usePrefetch,
  useWithdraw,
  type Verdict,
} from "./queries";

const ORDERS: readonly Order[] = ["doubt", "score", "cluster"];

/** Where the desk stands: the queue by address, the pair in view, and how to move on. */
export function useDesk() {
  const { slug = "", leftId = "", rightId = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const navigate = useNavigate();
  const order = ORDERS.find((name) => name === params.get("order")) ?? "doubt";
  const search = params.get("search") ?? "";
  const options = queueOptions(slug, order, search);
  const queue = useQuery({ ...options, placeholderData: keepWithin(slug) });
  const pairs = queue.data?.pairs ?? [];
  const place = leftId
    ? pairs.findIndex((pair) => pair.left_id === Number(leftId) && pair.right_id === Number(rightId))
    : 0;
  const first = pairs[0];
  const inView = leftId
    ? { left: Number(leftId), right: Number(rightId) }
    : { left: first?.left_id ?? 0, right: first?.right_id ?? 0 };
  usePrefetch(slug, pairs, place);

  const open = (pair: { left_id: number; right_id: number } | undefined) =>
    navigate({
      pathname: pair ? `/r/${slug}/review/${pair.left_id}/${pair.right_id}` : `/r/${slug}/review`,
      search: params.toString(),
    });
  const change = (name: string, value: string) =>
    setParams(
      (present) => {
        if (value) present.set(name, value);
        else present.delete(name);
        return present;
      },
      { replace: true },
    );
  const step = (by: number) => {
    const next = pairs[Math.max(0, Math.min(pairs.length - 1, place + by))];
    if (next) open(next);
  };
  return { slug, order, search, queue, pairs, place, inView, options, open, change, step };
}

type Desk = ReturnType<typeof useDesk>;

/** Deciding and taking back. The decided pair leaves the queue at once and the next one comes into view. */
export function useVerdicts(desk: Desk, pair: Pair | undefined) {
  const queries = useQueryClient();
  const decide = useDecide(desk.slug);
  const withdraw = useWithdraw(desk.slug);
  const latest = useLatestDecisions(desk.slug);

  const leave = (gone: QueuedPair) =>
    queries.setQueryData<Queue>(
      desk.options.queryKey,
      (present) => present && { waiting: present.waiting - 1, pairs: present.pairs.filter((item) => item !== gone) },
    );
  const justDecided = useRef("");
  const say = (verdict: Verdict, remark = "") => {
    const name = pair ? `${pair.left.id}-${pair.right.id}` : "";
    // A key held down must not decide the pair twice before the next one is in view.
    if (!pair || justDecided.current === name) return;
    justDecided.current = name;
    const queued = desk.pairs[desk.place];
    const next = desk.pairs[desk.place + 1] ?? desk.pairs[desk.place - 1];
    decide.mutate(
      { left_id: pair.left.id, right_id: pair.right.id, verdict, remark, seen_decision: pair.decision?.id ?? null },
      {
        onError: (error) => {
          justDecided.current = "";
          notify(error.message, true);
        },
      },
    );
    if (queued) leave(queued);
    desk.open(next);
  };
  const undo = () => {
    const last = latest.data?.find((decision) => decision.withdrawn_at === null);
    if (!last) return notify("There is no decision to take back.");
    withdraw.mutate(last.id, {
      onSuccess: (decision) => {
        justDecided.current = "";
        notify(`Took back “${decision.verdict}”.`);
        desk.open(decision);
      },
      onError: (error) => notify(error.message, true),
    });
  };
  return { say, undo };
}
