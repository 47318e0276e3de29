"""Weights: what each agreement level of each comparison is worth, and where the score of a pair starts.

Evidence follows I. P. Fellegi and A. B. Sunter, "A theory for record linkage" (JASA 64, 1969): a level contributes
log2(m/u) bits, where m is how often records of one entity reach it and u how often records of two entities do. At levels
that agree, u depends on the value (W. E. Winkler, "Frequency-based matching in the Fellegi-Sunter model of record
linkage", 1989): it is the chance that another entity holds the same value, so that log2(1/u) is the information which
both sides share. The score starts at the log odds that two records taken blindly are the same, and so ends as the log
odds that the two compared are.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..compare import comparison
from ..compare.base import WORLD_RECORDS, Bits
from ..plan import ComparisonRule, MatchPlan
from ..text.compiled import allocating_kernel, kernel

Shares = npt.NDArray[np.float64]
#: Random pairs by which the expected share of a level among different entities counts before it is measured.
_PRIOR_RANDOM_PAIRS = 300.0
_LEAST_SHARE = 1e-5
#: How often relatives come out at a level of which a plan says nothing.
_LEAST_RELATED = 0.01


@dataclass(frozen=True, slots=True)
class LevelShares:
    """How often pairs come out at each level of one comparison (index 0, missing, is unused): ``same`` among pairs of one
    entity (m), ``different`` among pairs of two (u, used at levels that do not agree), ``related`` among pairs of two entities that
    belong together (empty where relatives agree by chance only)."""

    same: Shares
    different: Shares
    related: Shares


@dataclass(frozen=True, slots=True)
class WeightTable:
    """Evidence as arrays: a level ``l`` of comparison ``c`` is worth ``base[c, l] + strength[c, l] * shared`` bits against chance, and
    ``related[c, l]`` bits against relatives (NaN where relatives agree by chance only).

    ``groups`` is the number of the correlated group of every level of a comparison (-1 if none), ``group_shares`` what the weaker
    agreements of a group count, ``group_most`` how many bits beyond even odds a group can bring a pair together.
    """

    base: Bits
    strength: Bits
    related: Bits
    groups: npt.NDArray[np.int8]
    group_shares: Bits
    group_most: Bits


def expected_shares(rule: ComparisonRule) -> LevelShares:
    """Return the shares that a plan expects before any data are seen; those of pairs of which as much is known add up to one."""
    kind = comparison(rule.using)
    same = np.array([0.0, *(rule.among_same.get(level.name, level.among_same) for level in kind.stages)])
    different = np.array([0.0, *(level.among_different for level in kind.stages)])
    related = np.array([1.0, *(rule.among_related.get(level.name, _LEAST_RELATED) for level in kind.stages)])
    known = of_as_much_known(rule, related)
    return LevelShares(
        same / of_as_much_known(rule, same), different, related / known if rule.among_related else np.zeros(0)
    )


def of_as_much_known(rule: ComparisonRule, amounts: Shares) -> Shares:
    """Return, per level, the sum of ``amounts`` over all levels at which as much is known of the pairs; 1 for "missing"."""
    known = comparison(rule.using).known
    sums = [sum(amount for amount, other in zip(amounts[1:], known, strict=True) if other == own) for own in known]
    return np.array([1.0, *sums])


def measured_different(rule: ComparisonRule, expected: LevelShares, counts: npt.NDArray[np.int64]) -> LevelShares:
    """Return the shares with those among different entities measured: ``counts`` of levels over random pairs."""
    filled = counts.astype(np.float64)
    filled[0] = 0.0
    total = of_as_much_known(rule, filled) + _PRIOR_RANDOM_PAIRS
    measured = np.array([False, *(level.measured for level in comparison(rule.using).stages)])
    shares = (filled + _PRIOR_RANDOM_PAIRS * expected.different) / total
    least = np.array([0.0, *(level.least_different for level in comparison(rule.using).stages)])
    return LevelShares(
        expected.same, np.maximum(np.where(measured, shares, expected.different), least), expected.related
    )


def starting_bits(records: int, matches_per_record: float) -> float:
    """Return the log2 odds that two records of a file taken blindly are the same."""
    return float(np.log2(matches_per_record / (records + WORLD_RECORDS)))


def level_weights(rule: ComparisonRule, shares: LevelShares, width: int) -> tuple[Bits, Bits]:
    """Return (bits of each level, share of the shared information that counts at it), both of length ``width``."""
    kind = comparison(rule.using)
    base, strength = np.zeros(width, dtype=np.float32), np.zeros(width, dtype=np.float32)
    for number, level in enumerate(kind.stages, start=1):
        same = max(float(shares.same[number]), _LEAST_SHARE)
        if level.name in rule.bits:
            base[number] = rule.bits[level.name]
        elif level.agrees:
            base[number] = np.log2(same) - level.looseness
            strength[number] = rule.strength
        else:
            base[number] = np.log2(same / max(float(shares.different[number]), _LEAST_SHARE))
        base[number] += rule.learned.get(level.name, 0.0)
    return base, strength


def related_weights(rule: ComparisonRule, shares: LevelShares, width: int) -> Bits:
    """Return the bits of each level against relatives, of length ``width``; NaN where relatives agree by chance only."""
    bits = np.full(width, np.nan, dtype=np.float32)
    for number, level in enumerate(comparison(rule.using).stages, start=1):
        if len(shares.related) and level.name not in rule.bits:
            bits[number] = np.log2(max(float(shares.same[number]), _LEAST_SHARE) / float(shares.related[number]))
    bits[0] = 0.0
    return bits


def weight_table(plan: MatchPlan, shares: Sequence[LevelShares]) -> WeightTable:
    """Return the weights that a plan and the shares of levels make."""
    kinds = [comparison(rule.using) for rule in plan.comparisons]
    width = max(len(kind.levels) for kind in kinds)
    rows = [level_weights(rule, share, width) for rule, share in zip(plan.comparisons, shares, strict=True)]
    names = [rule.name for rule in plan.comparisons]
    groups = np.full((len(names), width), -1, dtype=np.int8)
    for number, group in enumerate(plan.correlated):
        groups[[names.index(name) for name in group.fields]] = number
        for name, levels in group.also_at.items():
            row = names.index(name)
            groups[row, [kinds[row].level_number(level) for level in levels]] = number
    return WeightTable(
        np.stack([row[0] for row in rows]), np.stack([row[1] for row in rows]),
        np.stack([related_weights(rule, share, width) for rule, share in zip(plan.comparisons, shares, strict=True)]), groups,
        np.array([group.share for group in plan.correlated] or [1.0], dtype=np.float32),
        np.array([np.inf if group.beyond_even is None else group.beyond_even for group in plan.correlated] or [np.inf], dtype=np.float32),
    )  # fmt: skip


@allocating_kernel
def _evidence(
    levels: npt.NDArray[np.int8], shared: Bits, base: Bits, strength: Bits, related: Bits, groups: npt.NDArray[np.int8],
    group_shares: Bits, group_most: Bits, starting: Bits, evidence: Bits, against_relatives: Bits,
) -> None:  # fmt: skip
    comparisons, pairs = levels.shape
    strongest = np.zeros(len(group_shares), dtype=np.float32)
    together = np.zeros(len(group_shares), dtype=np.float32)
    for pair in range(pairs):
        strongest[:] = 0.0
        together[:] = 0.0
        for row in range(comparisons):
            level = levels[row, pair]
            bits = base[row, level] + strength[row, level] * shared[row, pair]
            if level == 1 and strength[row, level] > 0.0:
                # Equal values never speak against a pair, however common they are.
                bits = max(bits, np.float32(0.0))
            evidence[row, pair] = bits
            group = groups[row, level]
            if group >= 0 and bits > 0.0:
                strongest[group] = max(strongest[group], bits)
                together[group] += bits
        for row in range(comparisons):
            group = groups[row, levels[row, pair]]
            if group >= 0 and evidence[row, pair] > 0.0:
                # The sum is strongest + share * others; every agreement gives way in the same proportion.
                full = together[group]
                counted = strongest[group] + group_shares[group] * (full - strongest[group])
                evidence[row, pair] *= min(counted, max(group_most[group] - starting[pair], np.float32(0.0))) / full
        for row in range(comparisons):
            bits = related[row, levels[row, pair]]
            against_relatives[pair] += evidence[row, pair] if np.isnan(bits) else bits


@kernel
def correct_evidence(
    levels: npt.NDArray[np.int8], slopes: Bits, offsets: Bits, concerned: npt.NDArray[np.bool_], evidence: Bits
) -> None:
    """Correct the evidence of the pairs concerned in place: ``slopes[c] * evidence + offsets[c, level]``."""
    for row in range(len(slopes)):
        for pair in range(len(concerned)):
            if concerned[pair]:
                evidence[row, pair] = slopes[row] * evidence[row, pair] + offsets[row, levels[row, pair]]


class Weighed(NamedTuple):
    """The bits of every comparison (rows) for pairs (columns) against chance, and per pair all bits against relatives."""

    evidence: Bits
    against_relatives: Bits


def weigh(table: WeightTable, levels: npt.NDArray[np.int8], shared: Bits, starting: Bits) -> Weighed:
    """Return the evidence of pairs with these levels and shared information, whose scores start at ``starting`` bits."""
    evidence, against_relatives = np.empty(levels.shape, dtype=np.float32), np.zeros(levels.shape[1], dtype=np.float32)
    _evidence(
        levels, shared, table.base, table.strength, table.related, table.groups, table.group_shares, table.group_most,
        np.ascontiguousarray(starting, dtype=np.float32), evidence, against_relatives,
    )  # fmt: skip
    return Weighed(evidence, against_relatives)


def taken_by_relatives(by_chance: Bits, by_relation: Bits) -> Bits:
    """Return what relatives take from a score, in bits (0 or less).

    ``by_chance`` are the log2 odds that two records are the same rather than unrelated, ``by_relation`` the log2 odds that they
    are the same rather than those of two related entities: a third class beside same and unrelated, as in M. D. Larsen and
    D. B. Rubin, "Iterative automated record linkage using mixture models" (JASA 96, 2001). The odds of the same against both
    are the harmonic sum of the two odds.
    """
    return np.asarray(-np.logaddexp2(np.float32(0.0), by_chance - by_relation), dtype=np.float32)


def shares_as_document(plan: MatchPlan, shares: Sequence[LevelShares]) -> dict[str, Mapping[str, Mapping[str, float]]]:
    """Return the shares of levels by comparison, for reports: level → among same, among different."""
    return {
        rule.name: {
            level: {
                "among_same": round(float(share.same[number]), 5), "among_different": round(float(share.different[number]), 5),
                **({"among_related": round(float(share.related[number]), 5)} if len(share.related) else {}),
            }
            for number, level in enumerate(comparison(rule.using).levels) if number
        }
        for rule, share in zip(plan.comparisons, shares, strict=True)
    }  # fmt: skip
