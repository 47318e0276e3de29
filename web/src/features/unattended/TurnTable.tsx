import { Link } from "react-router";
import { counted, moment } from "../../domain/format";
import { tookInWords } from "../../domain/unattended";
import { Button, CELL, Empty, Faces, Heads, notify } from "../../ui";
import { type Turn, useAnswerTurn, useTurns } from "./queries";

/** What ran, when, how long, and what it did; what is held is answered here. */
export function TurnTable({ slug }: { slug: string }) {
  return (
    <section aria-label="What ran">
      <h2 className="font-semibold">What ran</h2>
      <Faces query={useTurns(slug)}>
        {(turns) =>
          turns.length === 0 ? (
            <Empty title="Nothing has run by itself yet." />
          ) : (
            <table className="w-full text-sm">
              <thead>
                <Heads titles={["Due", "Source", "Took", "Came of it", ""]} unseen="Answer" />
              </thead>
              <tbody>
                {turns.map((turn) => (
                  <Row key={turn.id} slug={slug} turn={turn} />
                ))}
              </tbody>
            </table>
          )
        }
      </Faces>
    </section>
  );
}

function Row({ slug, turn }: { slug: string; turn: Turn }) {
  return (
    <tr>
      <td className={`${CELL} whitespace-nowrap`}>{moment(turn.due_at)}</td>
      <td className={`${CELL} font-medium`}>{turn.source}</td>
      <td className={CELL}>{tookInWords(turn.started_at, turn.ended_at)}</td>
      <td className={CELL}>
        <Outcome slug={slug} turn={turn} />
      </td>
      <td className={`${CELL} text-right whitespace-nowrap`}>
        {turn.state === "held" && <Answers slug={slug} turn={turn} />}
      </td>
    </tr>
  );
}

function Outcome({ slug, turn }: { slug: string; turn: Turn }) {
  const missed =
    turn.missed > 0 && ` ${counted(turn.missed, "turn")} before it ${turn.missed > 1 ? "were" : "was"} missed.`;
  return (
    <>
      <b className="font-semibold">{turn.state === "nothing" ? "nothing was there" : turn.state}</b>
      {turn.why && `: ${turn.why}`}
      {turn.state === "held" && turn.delivery_id && turn.held_at !== "merge" && (
        <>
          {". "}
          <Link className="text-plum underline" to={`/r/${slug}/bring-in/${turn.delivery_id}`}>
            Look at the delivery
          </Link>
        </>
      )}
      {turn.state === "held" && turn.held_at === "merge" && (
        <>
          {". "}
          <Link className="text-plum underline" to={`/r/${slug}/golden/merge`}>
            See what would change
          </Link>
        </>
      )}
      {turn.deliveries.map((delivery) => (
        <span key={delivery}>
          {" · "}
          <Link className="text-plum underline" to={`/r/${slug}/bring-in/${delivery}/outcomes`}>
            what came of it
          </Link>
        </span>
      ))}
      {turn.sent.length > 0 && <span className="text-soft"> · sent {turn.sent.join(", ")}</span>}
      {missed && <span className="text-soft">{missed}</span>}
    </>
  );
}

function Answers({ slug, turn }: { slug: string; turn: Turn }) {
  const answer = useAnswerTurn(slug);
  const say = (said: "let-through" | "give-up") =>
    answer.mutate({ turn: turn.id, answer: said }, { onError: (error) => notify(error, true) });
  return (
    <>
      <Button needs="bring in" look="main" small disabled={answer.isPending} onClick={() => say("let-through")}>
        Let it through
      </Button>{" "}
      <Button needs="bring in" small disabled={answer.isPending} onClick={() => say("give-up")}>
        Give it up
      </Button>
    </>
  );
}
