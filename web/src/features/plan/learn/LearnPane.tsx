import { useState } from "react";
import { at, readPlan, withEdits } from "../../../domain/planText";
import { Button, Choice, Faces, notify } from "../../../ui";
import type { BorderPair, Trying } from "../bench";
import { PairWalk } from "../pairs/PairWalk";
import { LessonView } from "./LessonView";
import { type PlanEdit, useLesson, useTeachingPairs, useUnlearned } from "./queries";

/** So many pairs are asked for in a round. */
const A_ROUND = 30;
const WEIGHS = [
  { value: "1", label: "a wrong pair is as bad as a missed one" },
  { value: "4", label: "a wrong pair is as bad as 4 missed ones" },
  { value: "16", label: "a wrong pair is as bad as 16 missed ones" },
];

interface Props {
  slug: string;
  trying: Trying;
  stamp: string;
  text: string;
  onChange: (yaml: string) => void;
  onOne: (pair: BorderPair) => void;
}

/** Learning from decisions: thirty pairs that teach most are asked, then what all decisions say can be taken over into the plan. */
export function LearnPane({ slug, trying, stamp, text, onChange, onOne }: Props) {
  const [round, setRound] = useState(0);
  const [asking, setAsking] = useState(false);
  const [weighs, setWeighs] = useState("1");
  const unlearned = useUnlearned(slug);
  const learned = at(readPlan(text), ["learning"]) !== undefined;
  const apply = (edits: readonly PlanEdit[], says: string) => {
    onChange(withEdits(readPlan(text), edits));
    notify(says);
  };
  if (asking)
    return (
      <Asking
        slug={slug}
        trying={trying}
        weighs={Number(weighs)}
        round={round}
        onOne={onOne}
        onBack={() => setAsking(false)}
      />
    );
  return (
    <section aria-label="Learning from decisions" className="px-4 py-2 text-sm">
      <div className="flex flex-wrap items-center gap-2">
        <Button
          look="main"
          onClick={() => {
            setRound(round + 1);
            setAsking(true);
          }}
        >
          Answer {A_ROUND} pairs that teach most
        </Button>
        <Choice label="What weighs more" value={weighs} options={WEIGHS} onChange={setWeighs} />
        {learned && (
          <Button
            needs="try"
            disabled={unlearned.isPending}
            onClick={() =>
              unlearned.mutate(
                { ...trying, yaml: text },
                {
                  onSuccess: ({ edits }) => apply(edits, "The plan is as it was before it learned."),
                  onError: (error) => notify(error, true),
                },
              )
            }
          >
            Take back what was learned
          </Button>
        )}
      </div>
      <Learned
        slug={slug}
        trying={trying}
        stamp={stamp}
        weighs={Number(weighs)}
        onTake={(edits) => apply(edits, "Taken over into the draft. Look at its effect before you put it in force.")}
      />
    </section>
  );
}

interface LearnedProps {
  slug: string;
  trying: Trying;
  stamp: string;
  weighs: number;
  onTake: (edits: readonly PlanEdit[]) => void;
}

function Learned({ slug, trying, stamp, weighs, onTake }: LearnedProps) {
  const query = useLesson(slug, trying, weighs, stamp);
  return (
    <Faces query={query}>
      {(lesson) => <LessonView lesson={lesson} aRound={A_ROUND} onTake={() => onTake(lesson.edits)} />}
    </Faces>
  );
}

interface AskingProps {
  slug: string;
  trying: Trying;
  weighs: number;
  round: number;
  onOne: (pair: BorderPair) => void;
  onBack: () => void;
}

function Asking({ slug, trying, weighs, round, onOne, onBack }: AskingProps) {
  const query = useTeachingPairs(slug, trying, A_ROUND, weighs, round);
  return (
    <section aria-label="Pairs that teach most" className="flex h-full min-h-0 flex-col">
      <p className="flex items-center gap-3 border-b border-line px-4 py-2 text-sm">
        <Button onClick={onBack}>See what is learned</Button>
        <span>First those that judge a condition, then those that teach most. Leave out what cannot be told.</span>
      </p>
      <Faces query={query}>
        {(pairs) => (
          <PairWalk
            label="Pairs that teach most"
            slug={slug}
            pairs={pairs}
            none="Nothing is left that would teach anything."
            onOne={onOne}
          />
        )}
      </Faces>
    </section>
  );
}
