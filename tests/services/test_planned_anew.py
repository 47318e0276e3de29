"""A statement is planned for the ids that it is given, however often it was given few before."""

from sqlalchemy import text

from oddpair.store.bulk import both_among
from oddpair.store.database import SessionFactory


def test_no_plan_is_kept_from_statements_with_other_ids(sessions: SessionFactory) -> None:
    among = text(f"SELECT count(*) FROM run_pairs WHERE run_id = 1 AND {both_among('left_id', 'right_id', 'ids')}")
    with sessions() as session:
        for number in range(20):
            session.execute(among, {"ids": [number]})
        kept = text("SELECT sum(generic_plans), sum(custom_plans) FROM pg_prepared_statements")
        generic, custom = session.execute(kept).one()
    assert (generic, custom >= 10) == (0, True)
