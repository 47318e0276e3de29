"""A register as recognition reads it: records, blocks and links as they are in the open transaction."""

from collections.abc import Collection

import numpy as np
from sqlalchemy.orm import Session

from ...core.blocking.learned_blocks import BlockNumbers
from ...core.clustering import Decisions
from ...core.recognition import BlockDirectory
from ...core.records import RecordSet
from ...store import recognition as store
from ...store.decisions import DecisionInForce, decided_among, decided_around
from ..match.numbers import Numbers
from ..match.read_records import records_of_lines


class RegisterAsItStands:
    """The records of a register, the blocks they stand in, and what the run ``run_id`` and decisions link; pairs with ``same_from`` bits
    are links."""

    def __init__(
        self, session: Session, register_id: int, run_id: int, same_from: float, directory: BlockDirectory
    ) -> None:
        self._session, self._register_id, self._run_id = session, register_id, run_id
        self._same_from, self._directory = same_from, directory

    def present(self, ids: Numbers) -> Numbers:
        """Return those of some records that are in the register, ascending."""
        return store.present_among(self._session, ids.tolist())

    def everyone(self) -> Numbers:
        """Return all records of the register, ascending."""
        return store.present_of(self._session, self._register_id)

    def records(self, ids: Numbers) -> tuple[RecordSet, Numbers]:
        """Return tidy records, and the id of each in their order; those that are not in the register any more are left out."""
        return records_of_lines(store.lines_of(self._session, ids.tolist()))

    def sharing(self, numbers: BlockNumbers) -> Numbers:
        """Return the records that stand in one of some blocks, each once, ascending."""
        return self._directory.sharing(numbers)

    def linked(self, ids: Collection[int]) -> Numbers:
        """Return the records that a pair that is the same, or a decision that says so, links with some directly."""
        found = set(store.linked_to(self._session, self._run_id, ids, self._same_from))
        for decision in decided_around(self._session, self._register_id, list(ids)):
            if decision.verdict == "same":
                found |= {decision.left_id, decision.right_id}
        return np.array(sorted(found), dtype=np.int64)

    def decisions(self, ids: Numbers) -> Decisions:
        """Return the decisions in force among records, by their places in ``ids``."""
        return _as_places(decided_among(self._session, self._register_id, ids.tolist()), ids)


def _as_places(decided: Collection[DecisionInForce], ids: Numbers) -> Decisions:
    place = {record: number for number, record in enumerate(ids.tolist())}
    chosen: dict[str, list[tuple[int, int]]] = {"same": [], "different": [], "later": []}
    for decision in decided:
        a, b = sorted((place[decision.left_id], place[decision.right_id]))
        chosen[decision.verdict].append((a, b))
    same, different = (np.array(chosen[name], dtype=np.int32).reshape(-1, 2) for name in ("same", "different"))
    return Decisions(same, different)
