import { useState } from "react";
import type { Piece } from "../../../api/work";
import { count } from "../../../domain/format";
import { Button, CELL, TextField, Trouble } from "../../../ui";
import { PeopleTicks } from "./PeopleTicks";
import { useChangePiece, useEndPiece } from "./queries";

/** A piece of work: whose, of what, how far, until when; opened, handed over, ended. */
export function PieceLine({ slug, piece, onOpen }: { slug: string; piece: Piece; onOpen: () => void }) {
  const end = useEndPiece(slug);
  const [handing, setHanding] = useState(false);
  return (
    <>
      <tr>
        <td className={CELL}>{piece.people.join(", ")}</td>
        <td className={CELL}>
          {piece.says}
          {piece.remark && <span className="block text-xs text-soft">{piece.remark}</span>}
        </td>
        <td className={`${CELL} text-right`}>{count(piece.waiting)}</td>
        <td className={`${CELL} text-right`}>{count(piece.decided + piece.proposed)}</td>
        <td className={`${CELL} whitespace-nowrap ${piece.late ? "font-medium text-rust" : ""}`}>
          {piece.due_on ? `${piece.due_on}${piece.late ? ", late" : ""}` : ""}
        </td>
        <td className={`${CELL} whitespace-nowrap text-right`}>
          <Button small look="quiet" onClick={onOpen}>
            Look
          </Button>
          <Button small look="quiet" needs="decide" onClick={() => setHanding(!handing)}>
            Hand over
          </Button>
          <Button small look="quiet" needs="decide" disabled={end.isPending} onClick={() => end.mutate(piece.id)}>
            End
          </Button>
        </td>
      </tr>
      {handing && (
        <tr>
          <td className={CELL} colSpan={6}>
            <HandOver slug={slug} piece={piece} onDone={() => setHanding(false)} />
          </td>
        </tr>
      )}
    </>
  );
}

function HandOver({ slug, piece, onDone }: { slug: string; piece: Piece; onDone: () => void }) {
  const change = useChangePiece(slug);
  const [people, setPeople] = useState<string[]>(piece.people);
  const [due, setDue] = useState(piece.due_on ?? "");
  return (
    <div className="space-y-2 bg-sunk p-2">
      <PeopleTicks slug={slug} label="Whose it is" chosen={people} onChange={setPeople} />
      <div className="flex items-end gap-3">
        <TextField label="Until" type="date" value={due} onChange={(event) => setDue(event.target.value)} />
        <Button
          look="main"
          disabled={people.length === 0 || change.isPending}
          onClick={() => change.mutate({ id: piece.id, people, due_on: due || null }, { onSuccess: onDone })}
        >
          Set this
        </Button>
        <Button onClick={onDone}>Leave it</Button>
      </div>
      {change.error && <Trouble error={change.error} />}
    </div>
  );
}
