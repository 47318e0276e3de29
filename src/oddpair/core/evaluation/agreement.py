"""Agreement between two judgements of the same pairs: Cohen's kappa with its margin."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

#: Half the width of an interval that holds the true value 95 times in a hundred, in standard errors.
_AT_95 = 1.96


@dataclass(frozen=True, slots=True)
class Agreement:
    """How two judgements of ``pairs`` pairs agree: the share that is equal, kappa (1 full agreement, 0 as by chance) and its ``margin``
    at 95 %; both None where chance alone would agree always, or nothing was judged twice."""

    pairs: int
    equal: int
    kappa: float | None
    margin: float | None


def agreement(judged: Sequence[tuple[str, str]]) -> Agreement:
    """Return the agreement of judgements given as (one, other) per pair.

    J. Cohen, "A coefficient of agreement for nominal scales" (Educational and Psychological Measurement 20, 1960), with its
    large-sample standard error; the share of equal ones in that is taken with two more of either kind (A. Agresti and B. A. Coull,
    1998), so that a few which all agree do not look certain. Which of the two came first does not matter.
    """
    count = len(judged)
    equal = sum(one == other for one, other in judged)
    words = sorted({word for pair in judged for word in pair})
    by_chance = sum(
        sum(one == word for one, _ in judged) * sum(other == word for _, other in judged) for word in words
    ) / max(count * count, 1)
    if not count or by_chance >= 1.0:
        return Agreement(count, equal, None, None)
    observed = equal / count
    kappa = (observed - by_chance) / (1.0 - by_chance)
    careful = (equal + 2) / (count + 4)
    error = sqrt(careful * (1.0 - careful) / (count + 4)) / (1.0 - by_chance)
    return Agreement(count, equal, round(kappa, 3), round(_AT_95 * error, 3))
