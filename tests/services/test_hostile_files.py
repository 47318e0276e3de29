"""Broken and hostile files are refused or loaded with every row accounted for; nothing is ever half-loaded."""

from pathlib import Path

from sqlalchemy import func, select

from oddpair.core.errors import OddPairError
from oddpair.core.fields import RegisterKind
from oddpair.core.mapping import Assignment
from oddpair.services.bring_in import drafts as bring_in
from oddpair.services.bring_in import load_delivery
from oddpair.services.registers import registers
from oddpair.services.state.mappings import mapping_of
from oddpair.store.database import SessionFactory
from oddpair.store.tables import Delivery, RejectedRow, SourceRecord
from tests.there import there

from ..files.broken import broken_files
from ..states.registers import nothing


def test_broken_files_leave_only_whole_deliveries(sessions: SessionFactory, deliveries: Path) -> None:
    with sessions.begin() as session:
        slug = registers.make_register(session, "Suppliers", RegisterKind.ORGANISATION).slug
    loaded, refusals = 0, []
    for number, (name, content) in enumerate(broken_files()):
        if len(content) > 20_000_000:
            continue
        stored = deliveries / f"{number}.bin"
        stored.write_bytes(content)
        try:
            with sessions.begin() as session:
                draft = bring_in.receive(session, slug, stored, name[:255], f"source {number}").delivery
                mapping = mapping_of(draft.mapping)
                if not any(item.field.startswith("name") for item in mapping):
                    mapping = (Assignment("name", draft.columns[0]),)
                bring_in.check_loadable(session, draft.id, mapping)
            with sessions.begin() as session:
                counts = load_delivery.load(session, draft.id, deliveries, nothing)
            assert counts["rows"] == counts["new"] + counts["rejected"] > 0, name
            loaded += 1
        except OddPairError as error:
            refusals.append(str(error))
    assert min(loaded, len(refusals)) > 0.3 * len(broken_files())
    assert all(refusals)
    with sessions() as session:
        done = session.scalars(select(Delivery).where(Delivery.status == "loaded")).all()
        assert len(done) == loaded
        records = session.scalar(select(func.count()).select_from(SourceRecord))
        aside = session.scalar(select(func.count()).select_from(RejectedRow))
        assert records == sum(there(delivery.counts)["new"] for delivery in done)
        assert aside == sum(there(delivery.counts)["rejected"] for delivery in done)
