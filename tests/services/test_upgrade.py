"""A database from before keeps what was in it and goes on working."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import select, text

from oddpair.core.fields import RegisterKind
from oddpair.core.plan import default_plan
from oddpair.services.bring_in.take_back import preview_take_back
from oddpair.services.match import plans
from oddpair.services.registers import registers
from oddpair.store import database
from oddpair.store.database import SessionFactory
from oddpair.store.tables import Delivery, Plan
from tests.there import there

from ..states.registers import bring

OLD_PLAN = """
title: Organisations
kind: organisation
limits: {same: 10.0, unsure: 3.0}
blocking: {keys: [name]}
comparisons:
  - {field: phone, using: phone, label: phone, rarity: {strength: 1.0}, bits: {equal: 6, close: 2, different: -1.5}}
"""


def alembic(database_url: str) -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(database.__file__).parent / "migrations"))
    config.attributes["url"] = database_url.replace("postgresql://", "postgresql+psycopg://", 1)
    return config


def test_a_plan_of_the_earlier_way_of_scoring_gets_a_successor_and_stays_as_it_was(
    database_url: str, sessions: SessionFactory
) -> None:
    config = alembic(database_url)
    with sessions.begin() as session:
        for name in ("Customers", "Suppliers"):
            registers.make_register(session, name, RegisterKind.ORGANISATION)
    command.downgrade(config, "0002")
    with sessions.begin() as session:
        session.execute(
            text("UPDATE plans SET yaml = :yaml WHERE id = (SELECT min(id) FROM plans)"), {"yaml": OLD_PLAN}
        )
    command.upgrade(config, "head")
    with sessions() as session:
        row, plan = plans.plan_of(session, "customers")
        assert (row.version, plan) == (2, default_plan(RegisterKind.ORGANISATION))
        assert "version 1" in row.note
        assert plans.plan_of(session, "suppliers")[0].version == 1
        assert session.scalars(select(Plan.yaml).where(Plan.version == 1).order_by(Plan.id)).first() == OLD_PLAN
    command.upgrade(config, "head")
    with sessions() as session:
        assert plans.plan_of(session, "customers")[0].version == 2


def test_mappings_and_what_deliveries_brought_are_taken_over(
    database_url: str, sessions: SessionFactory, tmp_path: Path, deliveries: Path
) -> None:
    config = alembic(database_url)
    with sessions.begin() as session:
        slug = registers.make_register(session, "Suppliers", RegisterKind.ORGANISATION).slug
    path = tmp_path / "till.csv"
    path.write_text("id,company\n1,Tern\n2,Skua\n")
    bring(sessions, slug, path, deliveries)
    command.downgrade(config, "0003")
    with sessions.begin() as session:
        assert session.scalar(text("SELECT mapping FROM sources")) == {"id": "id", "company": "name"}
    command.upgrade(config, "head")
    assert bring(sessions, slug, path, deliveries)["unchanged"] == 2
    with sessions.begin() as session:
        first = session.scalars(select(Delivery.id).order_by(Delivery.id)).first()
        told = preview_take_back(session, there(first))
        assert (told.withdrawn, told.staying) == (0, 2)
