"""Columns that are kept come back as they were, and only for the records that they were made of."""

import csv
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from oddpair.core.errors import InputError
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.plan import default_plan
from oddpair.core.records import encode
from oddpair.core.tidying import tidying_rules
from oddpair.files.kept_columns import KeptColumns, digest_of
from oddpair.services.offline import match_files as module

from ..core.strategies import record_sets, records

values = st.lists(st.one_of(st.none(), st.text(st.characters(exclude_categories=["Cs"]), max_size=4)), max_size=9)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(values)
def test_columns_come_back_as_they_were_kept(tmp_path: Path, given_values: list[str | None]) -> None:
    column = encode(given_values)
    keeper = KeptColumns(tmp_path)
    keeper.keep("digest", {"name": column, "other": column})
    taken = keeper.take("digest")
    assert taken is not None
    assert list(taken) == ["name", "other"]
    assert taken["other"].values == column.values
    assert taken["other"].codes.tolist() == column.codes.tolist()


@given(record_sets(), record_sets())
def test_the_digest_tells_records_and_rules_apart(one: list[tuple[str, str, dict[str, str]]], other: list[tuple[str, str, dict[str, str]]]) -> None:  # fmt: skip
    first, second = records(one), records(other)
    rows = [[built.row(place) for place in range(len(built))] for built in (first, second)]
    if digest_of(first, "rules") == digest_of(second, "rules"):
        assert rows[0] == rows[1]
    assert digest_of(first, "rules") != digest_of(first, "other rules")
    assert tidying_rules(default_layout(RegisterKind.PERSON)) != tidying_rules(
        default_layout(RegisterKind.ORGANISATION)
    )


def test_the_oldest_goes_and_damage_counts_as_nothing(tmp_path: Path) -> None:
    keeper = KeptColumns(tmp_path / "new", most=2)
    for digest in "abc":
        keeper.keep(digest, {"name": encode([digest])})
    assert keeper.take("a") is None
    assert keeper.take("c") is not None
    next((tmp_path / "new").glob("tidied-c*")).write_bytes(b"ARROW1, but no more")
    assert keeper.take("c") is None
    keeper.keep("halves", {"name": encode(["\ud800"])})
    assert keeper.take("halves") is None
    (tmp_path / "file").write_text("")
    with pytest.raises(InputError, match="nothing can be kept there"):
        KeptColumns(tmp_path / "file")


def test_a_second_run_tidies_nothing_and_finds_the_same(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    file = tmp_path / "till.csv"
    rows = [["id", "name", "town"], ["1", "Tern Ropes Ltd", "Whitby"], ["2", "TERN ROPES LIMITED", "Whitby"]]
    with file.open("w", newline="") as out:
        csv.writer(out).writerows(rows)
    plan = default_plan(RegisterKind.ORGANISATION)
    first = module.match_files([file], plan, tmp_path / "one", kept=tmp_path / "kept")
    monkeypatch.setattr(module, "tidy_records", None)
    second = module.match_files([file], plan, tmp_path / "two", kept=tmp_path / "kept")
    assert (tmp_path / "one" / "pairs.csv").read_bytes() == (tmp_path / "two" / "pairs.csv").read_bytes()
    assert first.match.labels.tolist() == second.match.labels.tolist() == [0, 0]
