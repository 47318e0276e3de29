"""Once the tables of a queue package, which are gone since 0009; a new database never makes them."""

revision: str = "0002"
down_revision: str | None = "0001"
branch_labels: None = None
depends_on: None = None


def upgrade() -> None:
    """Nothing is made any more."""


def downgrade() -> None:
    """Nothing is left to take away."""
