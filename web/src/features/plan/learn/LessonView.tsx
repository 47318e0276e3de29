import { percent, signedPercent } from "../../../domain/bench";
import { bits, counted } from "../../../domain/format";
import { Button } from "../../../ui";
import { LevelTable } from "./LevelTable";
import type { Lesson } from "./queries";

const BETTER = { better: "better", worse: "worse", "not shown": "no difference shown yet" } as const;

/** What decisions teach and what that is worth on decisions set aside; to be taken over by hand only. */
export function LessonView({ lesson, aRound, onTake }: { lesson: Lesson; aRound: number; onTake: () => void }) {
  if (lesson.decisions === 0)
    return (
      <p className="mt-3 text-soft">
        Nothing is decided yet. Every decision teaches, wherever it is made; the pairs asked for here teach most.{" "}
        {aRound} answers take about ten minutes.
      </p>
    );
  const { held_out: held } = lesson;
  return (
    <>
      <p className="mt-3">
        From <b>{counted(lesson.decisions, "decision")}</b>, {lesson.same} of them the same
        {lesson.by_condition > 0 &&
          `; ${lesson.by_condition} more are decided by a condition or veto, ${lesson.against_conditions} of them otherwise`}
        .
      </p>
      <h2 className="mt-3 font-semibold">On decisions set aside</h2>
      {held ? (
        <>
          <p>
            Each decision was judged by what the others teach. Right verdicts: {percent(held.right.before)} before,{" "}
            <b>{percent(held.right.after)}</b> after; gained {signedPercent(held.right.low)} to{" "}
            {signedPercent(held.right.high)}: <b>{BETTER[held.right.verdict]}</b>. How surely they were foreseen:{" "}
            {bits(held.foreseen.before)} bits before, {bits(held.foreseen.after)} after: {BETTER[held.foreseen.verdict]}
            .
          </p>
          {held.right.verdict !== "better" && (
            <p className="text-soft">
              More answers make the margin smaller. The pairs asked for are the hardest ones: what is right of these
              says little of all pairs, which a fair sample tells, under Measure.
            </p>
          )}
        </>
      ) : (
        <p className="text-soft">Too few decisions to set some aside: ten pairs of different records, of both kinds.</p>
      )}
      <h2 className="mt-3 font-semibold">What is learned</h2>
      <p>
        Same from <b>{lesson.same_from}</b> bits (now {lesson.same_before}), in doubt from <b>{lesson.unsure_from}</b>{" "}
        (now {lesson.unsure_before}). A score of n bits is worth {lesson.slope} × n {lesson.shift < 0 ? "−" : "+"}{" "}
        {Math.abs(lesson.shift)} bits of odds.
      </p>
      <Conditions lesson={lesson} />
      <LevelTable levels={lesson.levels} />
      <p className="mt-2 flex items-center gap-3">
        <Button needs="try" look="main" onClick={onTake}>
          Take it over into the draft
        </Button>
        <span className="text-soft">It can be read in the text, exported with it, and taken back.</span>
      </p>
    </>
  );
}

/** What decisions say of conditions that leave pairs with a person. */
function Conditions({ lesson }: { lesson: Lesson }) {
  const judged = lesson.conditions.filter(({ same, different }) => same + different > 0);
  if (judged.length === 0) return null;
  return (
    <ul aria-label="Conditions judged" className="mt-1">
      {judged.map(({ title, same, different, dropped }) => (
        <li key={title}>
          <b>{title}</b>: {same} of {same + different} decided pairs that it alone holds back are the same.{" "}
          {dropped ? "Left out." : "It stays."}
        </li>
      ))}
    </ul>
  );
}
