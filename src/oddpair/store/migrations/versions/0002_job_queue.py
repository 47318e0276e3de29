"""The tables of the job queue, in a schema of their own."""

from alembic import op
from procrastinate.schema import SchemaManager

revision: str = "0002"
down_revision: str | None = "0001"
branch_labels: None = None
depends_on: None = None


def upgrade() -> None:
    op.execute("CREATE SCHEMA queue")
    op.execute("SET LOCAL search_path TO queue")
    # psycopg reads a single % as a placeholder.
    op.get_bind().exec_driver_sql(SchemaManager.get_schema().replace("%", "%%"))
    op.execute("SET LOCAL search_path TO DEFAULT")


def downgrade() -> None:
    op.execute("DROP SCHEMA queue CASCADE")
