"""Chains of rules: each step keeps the best of those that are left and hands ties to the next."""

from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

from ..fields import Field, FieldKind
from .choosing import choose
from .choosing_addresses import fill_gaps
from .consensus import BY_ORDER
from .held import Held
from .members import LATER_BY_ID, LESS_TRUSTED, OLDER, Contributor, Holder, tidy_key, why_first
from .steps import CONSENSUS, RULES, Ballot, Step

Chain = tuple[Step, ...]


#: What is said of a winner whose loser lost for this reason.
_FIRST = {
    LESS_TRUSTED: "from the more trusted source", OLDER: "from the fresher record", LATER_BY_ID: "the first by source and id",
}  # fmt: skip


class Outcome(NamedTuple):
    """Which holder of a unit won, its values with gaps filled, what decided, and why each of the others lost."""

    place: int
    values: dict[str, str]
    filled: frozenset[str]
    says: Callable[[], str]
    why: Callable[[int], str]


class _Count(NamedTuple):
    """What a vote said: among whom it was held, who supports the winner, and what decided a tie."""

    voters: int
    support: frozenset[int]
    tie: str


def settle(
    unit: str, fields: Sequence[Field], chain: Chain, holders: Sequence[Holder], winners: Mapping[str, Contributor]
) -> Outcome:
    """Return who wins a unit by a chain; ``holders`` are in the order in which ties are broken, ``winners`` those of other units."""
    kind, root = fields[0].kind, unit.split(".")[0]
    left = list(range(len(holders)))
    lost: dict[int, Step] = {}
    filled: dict[str, str] = {}
    count: _Count | None = None
    winner = -1
    for number, step in enumerate(chain):
        if len(left) == 1:
            break
        among = [holders[place] for place in left]
        if step.by == CONSENSUS:
            chosen = choose(unit, kind, [Held(one.source, own, one.tidy) for one, own in among])
            filled = dict(chosen.filled)
            count = _Count(len(left), frozenset(left[place] for place in chosen.support), chosen.tie)
            winner = left[chosen.place]
            if number == len(chain) - 1:
                break
            key = tidy_key(*_keyed(holders[winner], root))
            kept = [place for place in left if tidy_key(*_keyed(holders[place], root)) == key]
        else:
            ranks = RULES[step.by].ranking(step, Ballot(unit, fields, among, winners))
            best = min(ranks)  # type: ignore[type-var]
            kept = [place for place, rank in zip(left, ranks, strict=True) if rank == best]
        lost.update(dict.fromkeys((place for place in left if place not in kept), step))
        left = kept
        if winner not in left:
            winner = -1
    if winner < 0 or chain[-1].by != CONSENSUS:
        winner = _best_written(left, holders, root)
    if kind is FieldKind.ADDRESS and count is None and len(holders) > 1:
        filled = fill_gaps(root, [Held(one.source, own, one.tidy) for one, own in holders], winner)
    values = {**holders[winner][1], **filled}
    told = _Told(root, chain, holders, winner, values, lost, count)
    return Outcome(winner, values, frozenset(filled), told.says, told.why)


def _keyed(holder: Holder, root: str) -> tuple[Contributor, str, Mapping[str, str]]:
    return holder[0], root, holder[1]


def _best_written(left: Sequence[int], holders: Sequence[Holder], root: str) -> int:
    """Return the first that is left, or one that means the same and is not all in capitals."""
    first = left[0]
    if len(left) == 1 or not _shouts(holders[first][1]):
        return first
    key = tidy_key(*_keyed(holders[first], root))
    calm = (
        place for place in left if not _shouts(holders[place][1]) and tidy_key(*_keyed(holders[place], root)) == key
    )
    return next(calm, first)


def _shouts(values: Mapping[str, str]) -> bool:
    return all(value.isupper() for value in values.values())


class _Told(NamedTuple):
    """All that the reasons rest on."""

    root: str
    chain: Chain
    holders: Sequence[Holder]
    winner: int
    values: Mapping[str, str]
    lost: Mapping[int, Step]
    vote: _Count | None

    def says(self) -> str:
        """Return what decided, of the winner."""
        if len(self.holders) == 1:
            return "the only value"
        key = self._key(self.winner)
        others = [place for place in range(len(self.holders)) if self._key(place) != key]
        if not others:
            return f"all {len(self.holders)} records agree"
        # The last step by which a value that differs was left out.
        deciding = [step for step in self.chain if any(self.lost.get(place) == step for place in others)]
        by = RULES[deciding[-1].by].says if deciding else ""
        rest = [place for place in others if place not in self.lost]
        if not rest:
            return by
        told = [by, f"{len(self.vote.support)} of {self.vote.voters} records support it" if self.vote else ""]
        if self.vote and self.vote.tie not in ("", BY_ORDER):
            told.append(self.vote.tie)
        elif self.vote is None or self.vote.tie:
            told.append(_FIRST[why_first(self.holders[self.winner][0], self.holders[rest[0]][0])])
        return "; ".join(part for part in told if part)

    def why(self, place: int) -> str:
        """Return why a holder lost."""
        loser, own = self.holders[place]
        if own == self.values:
            return "the same value"
        if self._key(place) == self._key(self.winner):
            return "the same, written otherwise"
        step = self.lost.get(place)
        if self.vote and (step is None or step.by == CONSENSUS):
            if place in self.vote.support:
                return "agrees, but for slips or gaps"
            outvoted = f"{len(self.vote.support)} of {self.vote.voters} records support what won"
            tie = self._order(loser) if self.vote.tie == BY_ORDER else self.vote.tie
            return f"{outvoted}; {tie}" if tie else outvoted
        if step is not None:
            return RULES[step.by].why_lost
        return f"as good by the rules; {self._order(loser)}"

    def _order(self, loser: Contributor) -> str:
        return why_first(self.holders[self.winner][0], loser)

    def _key(self, place: int) -> str:
        return tidy_key(*_keyed(self.holders[place], self.root))
