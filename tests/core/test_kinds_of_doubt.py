"""Kinds of doubt: what they name is there in the evidence, whatever the plan, and every one can be said in words."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.compare import comparison
from oddpair.core.fields import RegisterKind
from oddpair.core.kinds_of_doubt import CHANGED, LARGE, WEAK, doubt_in_words, kinds_of_doubt
from oddpair.core.plan import default_plan

PLANS = {kind: default_plan(kind) for kind in RegisterKind}
NAMES = [rule.name for rule in PLANS[RegisterKind.ORGANISATION].comparisons]


def kind(**found: tuple[str, float]) -> str:
    """The kind of a pair of organisations by (level, bits) of what could be compared."""
    plan = PLANS[RegisterKind.ORGANISATION]
    levels, bits = np.zeros((len(NAMES), 1), dtype=np.int8), np.zeros((len(NAMES), 1), dtype=np.float32)
    for name, (level, amount) in found.items():
        row = NAMES.index(name)
        levels[row], bits[row] = comparison(plan.comparisons[row].using).level_number(level), amount
    return doubt_in_words(kinds_of_doubt(plan, levels, bits)[0], plan)


@pytest.mark.parametrize(
    ("found", "says"),
    [
        ({"name": ("equal", 9.0), "address": ("other town", -3.0)}, "same name, other town"),
        ({"name": ("different", -5.0), "phone": ("equal", 8.0)}, "same phone, other name"),
        ({"name": ("equal", 9.0)}, "same name, nothing else to go by"),
        ({"name": ("equal", 9.0), "address": ("other street", 2.0)}, "same name, other street"),
        ({"name": ("close", 7.0), "phone": ("equal", 6.0)}, "name nearly the same, nothing against it"),
        ({"name": ("close", 7.0), "tax_number": ("close", 6.0)}, "name nearly the same, nothing against it"),
        ({"name": ("equal", 9.0), "tax_number": ("contradicting", -6.0)}, "same name, other valid tax number"),
        ({}, "little to compare"),
    ],
)
def test_kinds_in_plain_words(found: dict[str, tuple[str, float]], says: str) -> None:
    assert kind(**found) == says


@given(st.sampled_from(list(RegisterKind)), st.integers(0, 2**32 - 1), st.integers(1, 40))
def test_a_kind_names_what_the_evidence_holds(register: RegisterKind, seed: int, pairs: int) -> None:
    plan = PLANS[register]
    random = np.random.default_rng(seed)
    sizes = [len(comparison(rule.using).levels) for rule in plan.comparisons]
    levels = np.stack([random.integers(0, size, pairs) for size in sizes]).astype(np.int8)
    bits = np.where(levels > 0, random.normal(0, 4, levels.shape), 0.0).astype(np.float32)
    order = random.permutation(pairs)
    found = kinds_of_doubt(plan, levels, bits)
    assert kinds_of_doubt(plan, levels[:, order], bits[:, order]) == [found[place] for place in order]
    names = [rule.name for rule in plan.comparisons]
    for place, code in enumerate(found):
        for side in code.split("|"):
            name, _, level = side.partition("=")
            if level:
                row = names.index(name)
                assert comparison(plan.comparisons[row].using).levels[levels[row, place]] == level
        words = doubt_in_words(code, plan)
        assert words
        assert not set("{=") & set(words)


@pytest.mark.parametrize("code", [CHANGED, WEAK, LARGE, "name|address", "gone=equal|", "name=gone|", "|"])
def test_every_code_can_be_said(code: str) -> None:
    assert doubt_in_words(code, PLANS[RegisterKind.ORGANISATION])
