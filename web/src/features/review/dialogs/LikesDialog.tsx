import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { client, type Schemas, unwrap } from "../../../api/client";
import { keys } from "../../../api/keys";
import { bits, counted } from "../../../domain/format";
import { Button, Faces, Modal, notify, TextField, Trouble } from "../../../ui";
import { type Pair, useTakeBack } from "../queries";

type Likes = Schemas["LikesOut"];

function useLikes(slug: string, pair: Pair) {
  const params = { path: { slug, left_id: pair.left.id, right_id: pair.right.id } };
  const queries = useQueryClient();
  const likes = useQuery({
    queryKey: keys.of(slug, "likes", pair.left.id, pair.right.id),
    staleTime: 0,
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/pairs/{left_id}/{right_id}/likes", {
          params: { ...params, query: { seed: Date.now() % 10_000 } },
        }),
      ),
  });
  const decide = useMutation({
    mutationFn: (body: Schemas["ManyIn"]) =>
      unwrap(client.POST("/api/registers/{slug}/pairs/{left_id}/{right_id}/likes", { params, body })),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: keys.register(slug) });
      void queries.invalidateQueries({ queryKey: keys.registers });
    },
  });
  return { likes, decide };
}

function Pairs({ slug, pairs }: { slug: string; pairs: Likes["pairs"] }) {
  return (
    <ul className="max-h-64 overflow-auto border border-line" tabIndex={0} aria-label="Pairs like this one">
      {pairs.map((pair) => (
        <li key={`${pair.left_id}-${pair.right_id}`} className="flex gap-3 border-b border-line px-2 py-0.5 text-sm">
          <Link
            className="min-w-0 flex-1 truncate text-plum hover:underline"
            to={`/r/${slug}/review/${pair.left_id}/${pair.right_id}`}
          >
            {`${pair.left_name} / ${pair.right_name}`}
          </Link>
          <span className="font-mono text-xs text-soft">{bits(pair.score)}</span>
        </li>
      ))}
    </ul>
  );
}

/** Exactly the doubts like one: shown, counted, sampled, walked if wished, then decided in one step with a reason. */
export function LikesDialog({ slug, pair, onClose }: { slug: string; pair: Pair; onClose: () => void }) {
  const { likes, decide } = useLikes(slug, pair);
  const takeBack = useTakeBack(slug);
  const [all, setAll] = useState(false);
  const [reason, setReason] = useState("");
  const say = (verdict: "same" | "different", seen: string) =>
    decide.mutate(
      { verdict, remark: reason, seen },
      {
        onSuccess: ({ pairs }) => {
          notify(`${counted(pairs, "pair")} decided “${verdict}”.`, false, {
            label: "Take all back",
            run: () => takeBack.mutate(undefined, { onError: (error) => notify(error, true) }),
          });
          onClose();
        },
      },
    );
  return (
    <Modal title="All like this one" onClose={onClose} wide>
      <Faces query={likes} rows={4}>
        {(found) => (
          <div className="space-y-3">
            <p>
              {`${counted(found.pairs.length, "pair")} of the kind “${found.says}” agree and differ in the same way, with scores from ${bits(found.from_score)} to ${bits(found.to_score)} bits: `}
              <span className="text-soft">
                {found.levels
                  .filter(([, level]) => level !== "missing")
                  .map(([label, level]) => `${label} ${level}`)
                  .join(", ")}
                .
              </span>
            </p>
            <div className="flex items-center justify-between text-sm">
              <span className="font-medium">
                {all || found.sample.length === found.pairs.length
                  ? `All ${found.pairs.length}`
                  : `${found.sample.length} drawn at random`}
              </span>
              {found.pairs.length > found.sample.length && (
                <Button look="quiet" onClick={() => setAll(!all)}>
                  {all ? "Show a sample" : "Show all"}
                </Button>
              )}
            </div>
            <Pairs slug={slug} pairs={all ? found.pairs : found.sample} />
            <TextField
              label="Reason"
              hint="Kept with each decision, so that others understand it in a year."
              value={reason}
              maxLength={4000}
              onChange={(event) => setReason(event.target.value)}
            />
            {decide.error && <Trouble error={decide.error} onRetry={() => void likes.refetch()} />}
            <div className="flex justify-end gap-2">
              <Button onClick={onClose}>Leave</Button>
              {(["different", "same"] as const).map((verdict) => (
                <Button
                  key={verdict}
                  look="main"
                  disabled={!reason.trim() || found.pairs.length === 0 || decide.isPending}
                  onClick={() => say(verdict, found.seen)}
                >
                  {`All ${found.pairs.length} are ${verdict === "same" ? "the same" : "different"}`}
                </Button>
              ))}
            </div>
          </div>
        )}
      </Faces>
    </Modal>
  );
}
