"""Measures the results of a run over files against a truth, or against a sample of decided pairs."""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import numpy.typing as npt

from ...core.blocking import KeyCount, index_of_blocks, keys_that_bring
from ...core.errors import InputError
from ...core.evaluation import (
    CurvePoint,
    Estimate,
    Figures,
    KeyRecall,
    PairFigures,
    StageLosses,
    Stratum,
    cluster_figures,
    curve,
    draw_sample,
    estimate_quality,
    pair_figures,
    recall_by_key,
    stage_losses,
    true_pairs,
)
from ...files.writers import write_csv
from .match_files import BLOCKS_FILE, PAIR_COLUMNS, read_columns

_STRATA = 8
Record = tuple[str, str]


@dataclass(frozen=True, slots=True)
class Evaluation:
    """Figures of a run against a truth, over the records that stand in both.

    ``pairs`` and ``points`` need the run's pairs.csv beside the clusters, ``losses`` and ``keys`` its blocks too; they are None
    or empty without.
    """

    records: int
    pairwise: Figures
    b_cubed: Figures
    pairs: PairFigures | None
    points: tuple[CurvePoint, ...]
    losses: StageLosses | None
    keys: tuple[KeyRecall, ...]


def evaluate_clusters(clusters: Path, truth: Path) -> Evaluation:
    """Compare a clusters.csv (source, source_id, cluster_id) and what lies beside it with a truth (source, source_id, entity)."""
    found = read_columns(clusters, ("source", "source_id", "cluster_id"))
    entity: dict[Record, str] = {
        (source, record): key for source, record, key in read_columns(truth, ("source", "source_id", "entity"))
    }
    known = [place for place, (source, record, _) in enumerate(found) if (source, record) in entity]
    if not known:
        raise InputError("no record of the truth stands in the clusters; do sources and ids agree?", file=truth.name)
    labels = [found[place][2] for place in known]
    records = [(found[place][0], found[place][1]) for place in known]
    entities = [entity[record] for record in records]
    pairwise, b_cubed = cluster_figures(labels, entities)
    number = {record: rank for rank, record in enumerate(records)}
    if not (clusters.parent / "pairs.csv").exists():
        return Evaluation(len(known), pairwise, b_cubed, None, (), None, ())
    left, right, bits, same = _pairs_of(clusters.parent / "pairs.csv", number)
    verdicts = np.where(same, "same", "unsure").tolist()
    figures = pair_figures(entities, left.tolist(), right.tolist(), verdicts)
    points = tuple(curve(entities, left.tolist(), right.tolist(), bits))
    losses: StageLosses | None = None
    keys: tuple[KeyRecall, ...] = ()
    if len(known) == len(found) and (clusters.parent / BLOCKS_FILE).exists():
        losses, keys = _losses(clusters.parent, labels, entities, (left, right, bits))
    return Evaluation(len(known), pairwise, b_cubed, figures, points, losses, keys)


def _pairs_of(
    path: Path, number: Mapping[Record, int]
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64], npt.NDArray[np.float32], npt.NDArray[np.bool_]]:
    rows = [
        (number[(source_a, id_a)], number[(source_b, id_b)], float(score), verdict == "same")
        for source_a, id_a, source_b, id_b, score, verdict in read_columns(path, PAIR_COLUMNS)
        if (source_a, id_a) in number and (source_b, id_b) in number
    ]
    left, right = (np.array([row[place] for row in rows], dtype=np.int64) for place in (0, 1))
    return (
        left,
        right,
        np.array([row[2] for row in rows], dtype=np.float32),
        np.array([row[3] for row in rows], dtype=np.bool_),
    )


def _losses(
    folder: Path, labels: list[str], entities: list[str],
    pairs: tuple[npt.NDArray[np.int64], npt.NDArray[np.int64], npt.NDArray[np.float32]],
) -> tuple[StageLosses, tuple[KeyRecall, ...]]:  # fmt: skip
    report = json.loads((folder / "report.json").read_text(encoding="utf-8"))
    blocks = np.load(folder / BLOCKS_FILE)
    counts = tuple(
        KeyCount(item["key"], item["blocks"], item["largest_block"], item["pairs_proposed"])
        for item in report["blocking_keys"]
    )
    index = index_of_blocks(blocks["members"], blocks["sizes"], blocks["keys"], len(entities), counts)
    left, right = true_pairs(entities)
    brought = keys_that_bring(index, left, right)
    cluster = np.unique(np.array(labels), return_inverse=True)[1]
    # One number per pair finds true pairs among the kept ones.
    count = len(entities)
    kept_left, kept_right, bits = pairs
    kept_codes = np.minimum(kept_left, kept_right) * count + np.maximum(kept_left, kept_right)
    codes = left.astype(np.int64) * count + right
    linked_codes = kept_codes[bits >= report["limits"]["same"]]
    losses = stage_losses(
        np.equal(cluster[left], cluster[right]),
        np.isin(codes, kept_codes),
        np.isin(codes, linked_codes),
        np.asarray(brought.any(axis=0)),
    )
    return losses, recall_by_key([count.key for count in counts], brought)


@dataclass(frozen=True, slots=True)
class QualityEstimate:
    """What a sample of decided pairs says of a run: its precision, and which share of the pairs kept it found."""

    decided: int
    precision: Estimate
    recall: Estimate


def write_sample(pairs: Path, out: Path, size: int) -> int:
    """Write about ``size`` pairs of a run, evenly over its scores, with an empty column "decision"; return how many."""
    rows = read_columns(pairs, (*PAIR_COLUMNS, "reason"))
    places = draw_sample(np.array([float(row[4]) for row in rows]), _STRATA, size)
    columns = (*PAIR_COLUMNS, "reason", "decision")
    write_csv(out, columns, (dict(zip(columns, (*rows[place], ""), strict=True)) for place in places.tolist()))
    return len(places)


def estimate_from_sample(pairs: Path, sample: Path) -> QualityEstimate:
    """Estimate a run's quality from a sample whose column "decision" says same or different; others are left out."""
    rows = read_columns(pairs, PAIR_COLUMNS)
    if not rows:
        raise InputError("there are no pairs to estimate anything of", file=pairs.name)
    decided = {row[:4]: row[4] for row in read_columns(sample, (*PAIR_COLUMNS[:4], "decision"))}
    wrong = sorted(set(decided.values()) - {"same", "different", ""})
    if wrong:
        raise InputError(f"the decision '{wrong[0]}' is neither 'same' nor 'different' nor empty", file=sample.name)
    order = np.argsort([float(row[4]) for row in rows], kind="stable")
    strata = []
    for part in np.array_split(order, _STRATA):
        for verdict in ("same", "unsure"):
            inside = [rows[place] for place in part.tolist() if rows[place][5] == verdict]
            decisions = [decision for row in inside if (decision := decided.get(row[:4], ""))]
            if inside:
                strata.append(Stratum(verdict == "same", len(inside), len(decisions), decisions.count("same")))
    total = sum(item.decided for item in strata)
    if not total:
        raise InputError("no pair of the run is decided in it", file=sample.name)
    quality = estimate_quality(strata)
    return QualityEstimate(total, quality.precision, quality.recall)
