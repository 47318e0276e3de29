import { Link } from "react-router";
import { moment } from "../../../domain/format";
import { Button, Modal, notify } from "../../../ui";
import { type Contradiction, type Disagreement, useWithdraw } from "../queries";

type Said = Contradiction["different"];

function Line({ slug, said, onTakeBack }: { slug: string; said: Said; onTakeBack: (id: number) => void }) {
  return (
    <li className="flex items-center gap-3 border-b border-line py-1">
      <Link className="flex-1 text-plum hover:underline" to={`/r/${slug}/review/${said.left_id}/${said.right_id}`}>
        {`Records ${said.left_id} and ${said.right_id}: ${said.verdict}`}
      </Link>
      <span className="text-soft">{moment(said.at)}</span>
      {said.id > 0 ? (
        <Button needs="decide" onClick={() => onTakeBack(said.id)}>
          Take back
        </Button>
      ) : (
        <Link
          className="text-plum underline"
          to={`/r/${slug}/review/records?record=${said.left_id}&record=${said.right_id}`}
        >
          said of a group
        </Link>
      )}
    </li>
  );
}

/** Standing decisions that somebody said otherwise of when the pair came up again, unmarked. */
function SaidOtherwise({
  slug,
  found,
  onTakeBack,
}: {
  slug: string;
  found: readonly Disagreement[];
  onTakeBack: (id: number) => void;
}) {
  return (
    <ul className="border-t border-line">
      {found.map(({ decision, actor, verdict, at }) => (
        <li key={decision.id} className="flex items-center gap-3 border-b border-line py-1">
          <Link
            className="flex-1 text-plum hover:underline"
            to={`/r/${slug}/review/${decision.left_id}/${decision.right_id}`}
          >
            {`${decision.verdict} by ${decision.actor}, ${moment(decision.at)}; ${verdict} by ${actor}, ${moment(at)}`}
          </Link>
          <Button needs="decide" onClick={() => onTakeBack(decision.id)}>
            Take back
          </Button>
        </li>
      ))}
    </ul>
  );
}

/** Decisions that cannot all be right, and the ways out: take any one of them back. */
export function ContradictionDialog({
  slug,
  found,
  otherwise = [],
  onClose,
}: {
  slug: string;
  found: readonly Contradiction[];
  otherwise?: readonly Disagreement[];
  onClose: () => void;
}) {
  const withdraw = useWithdraw(slug);
  const takeBack = (id: number) =>
    withdraw.mutate(id, {
      onSuccess: (decision) => {
        notify(`Took back “${decision.verdict}”.`);
        onClose();
      },
      onError: (error) => notify(error, true),
    });
  return (
    <Modal title="These decisions contradict each other" onClose={onClose} wide>
      <div className="space-y-3 text-sm">
        {found.length > 0 && (
          <p>
            Two records were called different that other decisions say are the same. The next merge cannot follow all of
            them: take one back.
          </p>
        )}
        {found.map(({ different, chain }) => (
          <ul key={`${different.left_id}-${different.right_id}`} className="border-t border-line">
            {[different, ...chain].map((said) => (
              <Line key={`${said.left_id}-${said.right_id}`} slug={slug} said={said} onTakeBack={takeBack} />
            ))}
          </ul>
        ))}
        {otherwise.length > 0 && (
          <>
            <p>
              These pairs came up again, and something else was said of them. The decision stands until it is taken
              back.
            </p>
            <SaidOtherwise slug={slug} found={otherwise} onTakeBack={takeBack} />
          </>
        )}
        <div className="flex justify-end">
          <Button onClick={onClose}>Leave them for now</Button>
        </div>
      </div>
    </Modal>
  );
}
