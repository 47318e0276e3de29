"""What other tidy steps would do to verdicts: the match run twice in memory, with the steps in force and with the others."""

from collections import Counter
from collections.abc import Callable
from typing import Any

from ...core import pipeline
from ...core.records import RecordSet
from ...core.tidying import TidySteps
from ...store.registers import register_by_slug
from ..match.run_plan import read_match_input
from ..transactions import SessionFactory, transaction
from .tidy_steps import Document, draft_tidy_steps

Progress = Callable[[str, int, int], None]
_SAMPLE = 40
_UNRELATED = "different"


def recount(sessions: SessionFactory, slug: str, steps: Document, progress: Progress) -> dict[str, Any]:
    """Return how many pairs change their verdict from which to which, and a sample of them; nothing is kept."""
    with transaction(sessions) as session:
        given = read_match_input(session, slug, tidy=False)
        draft = draft_tidy_steps(session, register_by_slug(session, slug), steps)
    records, ids = given.records, given.ids.tolist()

    def verdicts(tidy_steps: TidySteps, turn: str) -> tuple[dict[tuple[int, int], str], int]:
        result = pipeline.run(
            records, given.plan, decisions=given.decisions, without_duplicates=given.promised, tidy_steps=tidy_steps,
            layout=given.layout,
            progress=lambda stage, done, total: progress(f"{stage}, {turn}", done, total),
        )  # fmt: skip
        pairs = zip(result.pairs.left.tolist(), result.pairs.right.tolist(), result.pairs.same.tolist(), strict=True)
        return {(left, right): "same" if same else "unsure" for left, right, same in pairs}, result.cluster_count

    before, clusters_before = verdicts(given.tidy_steps, "as it is")
    after, clusters_after = verdicts(draft, "with the changed steps")
    changes = [
        (pair, before.get(pair, _UNRELATED), after.get(pair, _UNRELATED))
        for pair in sorted(before.keys() | after.keys())
        if before.get(pair) != after.get(pair)
    ]
    counts = Counter((was, becomes) for _, was, becomes in changes)
    return {
        "records": len(records), "clusters_before": clusters_before, "clusters_after": clusters_after,
        "changes": [{"was": was, "becomes": becomes, "pairs": count} for (was, becomes), count in sorted(counts.items())],
        "sample": [_changed_pair(records, ids, *change) for change in _spread(changes)],
    }  # fmt: skip


def _spread(changes: list[tuple[tuple[int, int], str, str]]) -> list[tuple[tuple[int, int], str, str]]:
    """Return a few changes of every kind."""
    kinds = sorted({change[1:] for change in changes})
    each = max(_SAMPLE // max(len(kinds), 1), 1)
    return [change for kind in kinds for change in [item for item in changes if item[1:] == kind][:each]]


def _changed_pair(records: RecordSet, ids: list[int], pair: tuple[int, int], was: str, becomes: str) -> dict[str, Any]:
    left, right = pair
    return {
        "left_id": ids[left], "right_id": ids[right], "left": records.row(left), "right": records.row(right),
        "was": was, "becomes": becomes,
    }  # fmt: skip
