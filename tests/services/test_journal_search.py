"""The journal looked through, and why two records are one, over a register that has lived a little."""

from datetime import timedelta

import pytest
from sqlalchemy import select, text

from oddpair.core.errors import NotFound, Refused
from oddpair.services.golden import edits, undo
from oddpair.services.golden.why import why
from oddpair.services.journal.entries import verify_register
from oddpair.services.journal.search import Asked, choices, rows, search, whole
from oddpair.store.database import SessionFactory
from oddpair.store.tables import JournalEntry

from ..states.registers import nothing
from .test_golden import largest, merge_now


@pytest.fixture
def lived(customers: str, sessions: SessionFactory) -> str:
    """Merged, one record taken out and put back, one value pinned."""
    merge_now(sessions, customers)
    view = largest(sessions, customers)
    record = view.members[-1][0].id
    with sessions.begin() as session:
        edits.split(
            session,
            customers,
            view.golden.key,
            [record],
            seen_version=view.golden.version,
            reason="another quay",
            actor="bob",
        )
    with sessions.begin() as session:
        step = session.scalars(select(JournalEntry).where(JournalEntry.kind == "split")).one()
        undo.undo_step(session, step.id, actor="ann")
    view = largest(sessions, customers)
    with sessions.begin() as session:
        edits.pin(
            session, customers, view.golden.key, field="name", value="Tern_100% Rope", reason="their letterhead",
            seen_version=view.golden.version, actor="cleo",
        )  # fmt: skip
    return customers


def test_it_is_looked_through_by_person_kind_time_words_and_golden_record(lived: str, sessions: SessionFactory) -> None:
    with sessions() as session:

        def found(**asked: object) -> list[tuple[str, str]]:
            page = search(session, lived, Asked(**asked), before=None, limit=500)  # type: ignore[arg-type]
            return [(entry.kind, entry.actor) for entry in page.entries]

        everything = found()
        kinds, people = choices(session, lived)
        assert set(kinds) == {kind for kind, _ in everything}
        assert set(people) == {actor for _, actor in everything}
        assert found(actor="bob") == [("split", "bob")]
        assert found(kind="pin") == [("pin", "cleo")]
        assert found(words="another QUAY") == [("undo", "ann"), ("split", "bob")]
        assert found(words="tern_100%") == [("pin", "cleo")]
        assert found(words="tern?100%") == []
        key = largest(sessions, lived).golden.key
        assert {kind for kind, _ in found(golden_key=key)} == {"merge", "split", "undo", "pin"}
        last = search(session, lived, Asked(), before=None, limit=1).entries[0].at
        assert found(since=last) == everything[:1]
        assert found(until=last) == everything[1:]
        with pytest.raises(Refused, match="lies after"):
            found(since=last, until=last - timedelta(days=1))
        with pytest.raises(NotFound):
            found(golden_key="CU-99999")
        assert [(row["kind"], row["by"]) for row in rows(session, lived, Asked())] == everything[::-1]


def test_pages_hold_every_entry_once_and_words_say_how_far_one_looked(
    lived: str, sessions: SessionFactory, monkeypatch: pytest.MonkeyPatch
) -> None:
    with sessions() as session:

        def all_pages(asked: Asked, **more: int) -> list[int]:
            found, before = list[int](), None
            while True:
                page = search(session, lived, asked, before=before, limit=2, **more)
                found += [entry.position for entry in page.entries]
                if page.behind is None:
                    return found
                before = page.behind

        whole_list = all_pages(Asked())
        assert whole_list == list(range(len(whole_list), 0, -1))
        pinned = [entry.position for entry in search(session, lived, Asked(kind="load"), before=None, limit=9).entries]
        assert len(pinned) > 1
        first = search(session, lived, Asked(words="loaded"), before=None, limit=9, looked_through=3)
        assert first.behind is not None
        [split] = search(session, lived, Asked(kind="split"), before=None, limit=9).entries
        assert all_pages(Asked(words="another quay"), looked_through=3) == [split.position + 1, split.position]


def test_an_entry_in_full_says_what_it_moved_and_what_took_it_back(lived: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        [split] = search(session, lived, Asked(kind="split"), before=None, limit=9).entries
        [back] = search(session, lived, Asked(kind="undo"), before=None, limit=9).entries
        found = whole(session, lived, split.id)
        assert found.undone_by == [back.id]
        assert found.moves == len(found.moved) == 1
        assert found.moved[0].from_key != found.moved[0].to_key
        assert found.values is not None
        assert "another quay" in str(found.values)
        with pytest.raises(NotFound):
            whole(session, "", split.id)


def test_why_two_records_are_one_is_told_from_first_delivery_to_today(lived: str, sessions: SessionFactory) -> None:
    view = largest(sessions, lived)
    one, other = view.members[0][0].id, view.members[-1][0].id
    with sessions() as session:
        told = why(session, lived, one, other)
        assert told.are_one
        assert told.golden_keys == (view.golden.key, view.golden.key)
        assert told.path[0][0].id == one or told.path[0][1].id == one
        assert all(says for *_, says in told.path)
        kinds = [happened.what for happened in told.happened]
        assert kinds[:2] == ["delivered", "delivered"]
        assert kinds.index("merge") < kinds.index("split") < kinds.index("undo")
        split = next(happened for happened in told.happened if happened.what == "split")
        assert (split.actor, split.undone) == ("bob", True)
        backwards = why(session, lived, other, one)
        assert backwards.happened == told.happened
        assert len(backwards.path) == len(told.path)
        with pytest.raises(NotFound):
            why(session, lived, one, one)
        with pytest.raises(NotFound):
            why(session, lived, one, 10**9)
        stranger = next(
            record
            for record in session.scalars(text("SELECT id FROM source_records"))
            if record not in {r.id for r, _ in view.members}
        )
        apart = why(session, lived, one, stranger)
        assert not apart.are_one
        assert apart.path == []


def test_a_chain_that_was_touched_is_told(lived: str, sessions: SessionFactory) -> None:
    with sessions.begin() as session:
        assert verify_register(session, lived, nothing).problems == []
        session.execute(text("ALTER TABLE journal DISABLE TRIGGER USER"))
        session.execute(text("UPDATE journal SET actor = 'nobody' WHERE kind = 'split'"))
        session.execute(text("ALTER TABLE journal ENABLE TRIGGER USER"))
        [problem] = verify_register(session, lived, nothing).problems
        assert "was changed" in problem
