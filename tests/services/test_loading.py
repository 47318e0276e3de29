"""Loading: the same records whoever does the work and in whatever order rows stand; cancelled work leaves nothing."""

from pathlib import Path
from random import Random

import pytest
from sqlalchemy import func, select

from oddpair.core.errors import Cancelled
from oddpair.core.fields import RegisterKind
from oddpair.services.bring_in import drafts as bring_in
from oddpair.services.bring_in import load_delivery
from oddpair.services.bring_in.load_delivery import Portions
from oddpair.services.registers import registers
from oddpair.store.database import SessionFactory
from oddpair.store.tables import Delivery, DeliveryRecord, RecordVersion, RejectedRow, SourceRecord

from ..states.registers import bring

HEAD = "id,company,street,town,phone,note\n"


def rows(count: int, seed: int = 1) -> list[str]:
    lines = [f'{n},Tern {n % 37} Ltd,"{n} Quay Road",Oban,01632 96{n:04},"a \\ ""b""\tc"\n' for n in range(count)]
    Random(seed).shuffle(lines)
    return lines


def stored(sessions: SessionFactory) -> list[tuple]:
    with sessions() as session:
        found = session.scalars(select(SourceRecord).order_by(SourceRecord.source_key)).all()
        return [(r.source_key, r.delivered, r.fields, r.tidy, r.content_hash, r.state) for r in found]


@pytest.fixture
def slug(sessions: SessionFactory) -> str:
    with sessions.begin() as session:
        return registers.make_register(session, "Suppliers", RegisterKind.ORGANISATION).slug


def test_several_processes_and_small_batches_make_the_same_records(
    sessions: SessionFactory, slug: str, tmp_path: Path, deliveries: Path
) -> None:
    path = tmp_path / "till.csv"
    path.write_text(HEAD + "".join(rows(300)))
    bring(sessions, slug, path, deliveries)
    alone = stored(sessions)
    assert alone[0][1]["note"] == 'a \\ "b"\tc'
    with sessions.begin() as session:
        other = registers.make_register(session, "Others", RegisterKind.ORGANISATION).slug
    bring(sessions, other, path, deliveries, portions=Portions(rows_at_once=17, worth_rows=1, processes=2))
    both = stored(sessions)
    assert len(both) == 600
    assert both[0::2] == both[1::2] == alone


def test_ids_do_not_depend_on_the_order_of_rows(
    sessions: SessionFactory, slug: str, tmp_path: Path, deliveries: Path
) -> None:
    path = tmp_path / "till.csv"
    path.write_text(HEAD + "".join(rows(60, seed=5)))
    bring(sessions, slug, path, deliveries)
    with sessions() as session:
        by_id = session.scalars(select(SourceRecord.source_key).order_by(SourceRecord.id)).all()
    assert by_id == sorted(by_id)


def test_cancelled_work_leaves_nothing_behind_and_can_begin_again(
    sessions: SessionFactory, slug: str, deliveries: Path
) -> None:
    file = deliveries / "till.csv"
    file.write_text(HEAD + "".join(rows(200)) + ",no id,,,,\n")
    told: list[tuple[str, int, int]] = []

    def stop_half_way(stage: str, done: int, total: int) -> None:
        told.append((stage, done, total))
        if done >= 100:
            raise Cancelled

    with sessions.begin() as session:
        draft = bring_in.receive(session, slug, file, "till.csv").delivery.id
    with pytest.raises(Cancelled), sessions.begin() as session:
        load_delivery.load(session, draft, deliveries, stop_half_way, portions=Portions(rows_at_once=20))
    assert [done for _, done, _ in told] == sorted(done for _, done, _ in told)
    assert all(0 < done <= total for _, done, total in told)
    with sessions() as session:
        for table in (SourceRecord, RecordVersion, DeliveryRecord, RejectedRow):
            assert session.scalar(select(func.count()).select_from(table)) == 0
        assert session.get_one(Delivery, draft).status == "draft"
    with sessions.begin() as session:
        counts = load_delivery.load(session, draft, deliveries, lambda *told: None)
    assert (counts["rows"], counts["new"], counts["rejected"]) == (201, 200, 1)
