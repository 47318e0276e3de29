"""An evaluation as lines of text."""

from collections.abc import Iterator

from ..services.offline.evaluate import Evaluation

_MOST_POINTS = 12


def evaluation_lines(result: Evaluation) -> Iterator[str]:
    """Yield the lines of an evaluation, as much as is known."""
    yield f"records    {result.records}"
    for name, figures in (("pairwise", result.pairwise), ("B-cubed", result.b_cubed)):
        yield f"{name:<10} precision {figures.precision:.4f}  recall {figures.recall:.4f}  F1 {figures.f1:.4f}"
    if result.pairs is not None:
        pairs = result.pairs
        true = max(pairs.true_pairs, 1)
        yield ""
        yield f"same       {pairs.same} pairs, precision {pairs.same_precision:.4f}, recall {pairs.recall_same:.4f}"
        yield f"+ unsure   {pairs.unsure} pairs, recall with them {pairs.recall_with_unsure:.4f}"
        yield (
            f"effort     {pairs.unsure / true:.3f} unsure pairs per true pair; "
            f"a person must see {pairs.unsure_true / true:.4f} of the true pairs"
        )
    if result.losses is not None:
        losses = result.losses
        yield ""
        yield (
            f"of {losses.true_pairs} true pairs: {losses.together} together, {losses.in_doubt} in doubt, {losses.cut_by_clustering} cut by "
            f"clustering, {losses.scored_low} scored low, {losses.never_compared} never compared"
        )
        yield from _key_lines(result)
    if result.points:
        yield ""
        yield "limit (bits)  precision  recall"
        step = max(len(result.points) // _MOST_POINTS, 1)
        for point in result.points[::step]:
            yield f"{point.limit:12.2f}  {point.precision:9.4f}  {point.recall:6.4f}"


def _key_lines(result: Evaluation) -> Iterator[str]:
    true = max(result.losses.true_pairs, 1) if result.losses else 1
    yield ""
    yield "recall  only this key  blocking key"
    for key in result.keys:
        yield f"{key.pairs / true:6.4f}  {key.alone:13d}  {key.key}"
