"""What a pass of a run tells of itself, as a document for reports."""

from collections.abc import Sequence
from dataclasses import asdict

from .contest import contest_document
from .matching_round import HISTOGRAM_FROM
from .pipeline import KeyReport, PassResult
from .wording import habits_document


def pass_report(one: PassResult, sources: Sequence[str]) -> dict[str, object]:
    """Return the counts of a pass (records in, and what came of them), its bands, scores, keys, and what it learned."""
    return {
        "title": one.title,
        "counts": one.counts(),
        "compared": one.compared,
        "bands": one.bands,
        "limits": one.plan.limits.model_dump(),
        "histogram": {"from": HISTOGRAM_FROM, "counts": one.histogram.tolist()},
        "keys": [key_report(item) for item in one.keys],
        "left_out": [asdict(item) for item in one.left_out],
        "calibration": asdict(one.calibration),
        "contest": contest_document(sources, one.free, one.contest),
        "wording": habits_document(one.habits),
    }


def key_report(item: KeyReport) -> dict[str, object]:
    """Return what a blocking key brought."""
    return {
        "key": item.count.key, "blocks": item.count.blocks, "largest_block": item.count.largest_block,
        "pairs_proposed": item.count.pairs_proposed, "pairs_first_found": item.pairs_first_found,
    }  # fmt: skip
