"""Whatever a file holds: either its table is read with every row accounted for, or one clear message says why not."""

import random
import resource
from pathlib import Path

import pytest

from oddpair.core.errors import InputError
from oddpair.files import BadRow, Row, open_table

from .broken import MAKERS, broken_files


def outcome(path: Path, name: str) -> tuple[list[Row], list[BadRow], str]:
    try:
        rows = list(open_table(path, name).rows())
    except InputError as error:
        return [], [], str(error)
    return [row for row in rows if isinstance(row, Row)], [row for row in rows if isinstance(row, BadRow)], ""


@pytest.mark.parametrize("place", range(4))
def test_broken_files_are_read_or_refused_with_a_clear_message(tmp_path: Path, place: int) -> None:
    for name, content in broken_files()[place::4]:
        path = tmp_path / "stored"
        path.write_bytes(content)
        good, bad, message = outcome(path, name)
        assert good or bad or message, name
        for text in [message, *(row.reason for row in bad), *(row.value for row in bad)]:
            text.encode("utf-8")
            assert "\0" not in text, name
            assert "Traceback" not in text
            assert len(text) <= 2500, name
        assert all(row.reason for row in bad), name
        assert len({row.number for row in good}) == len(good), name
        if message:
            assert message.startswith(f"{name}"), (name, message)


def test_memory_stays_bounded_whatever_a_file_claims_to_hold() -> None:
    # The largest resident size of this process, in KiB, after the files above were read by it or by a sibling.
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss < 2_500_000


@pytest.mark.parametrize("kind", sorted(MAKERS))
def test_files_cut_off_keep_the_rows_before_or_say_that_they_cannot_be_read(tmp_path: Path, kind: str) -> None:
    whole = MAKERS[kind](random.Random(7))
    path = tmp_path / "stored"
    path.write_bytes(whole)
    everything = [row.values for row in outcome(path, f"list.{kind}")[0]]
    assert len(everything) == 12
    for share in (0.3, 0.6, 0.95):
        path.write_bytes(whole[: int(len(whole) * share)])
        good, bad, message = outcome(path, f"list.{kind}")
        kept = [row.values for row in good]
        # The last row of a text may be cut inside its last value without a sign of it.
        assert kept[:-1] == everything[: len(kept)][:-1] or message
        assert bad or message or kind in ("csv", "jsonl")
