"""People: accounts, roles, browsers in which somebody is signed in, tokens of programs, and what is guessed."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, TEXT

revision: str = "0024"
down_revision: str | None = "0023"
branch_labels: None = None
depends_on: None = None

_MOMENT = sa.DateTime(timezone=True)
_NOW = sa.text("now()")


def _person(*, nullable: bool = False, index: bool = False) -> "sa.Column[int]":
    return sa.Column("person_id", sa.Integer, sa.ForeignKey("people.id"), nullable=nullable, index=index)


def upgrade() -> None:
    op.create_table(
        "people",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("sign_in", sa.Text, nullable=False),
        sa.Column("email", sa.Text, server_default="", nullable=False),
        sa.Column("issuer", sa.Text, server_default="", nullable=False),
        sa.Column("subject", sa.Text, server_default="", nullable=False),
        sa.Column("password", sa.Text),
        sa.Column("demo", sa.Boolean, server_default=sa.text("false"), nullable=False),
        sa.Column("rights", JSONB, server_default="[]", nullable=False),
        sa.Column("added_at", _MOMENT, server_default=_NOW, nullable=False),
        sa.Column("ended_at", _MOMENT),
    )
    op.create_index("uq_people_name", "people", [sa.text("lower(name)")], unique=True)
    op.create_index("uq_people_sign_in", "people", ["sign_in"], unique=True)
    living = sa.text("email <> '' AND ended_at IS NULL")
    op.create_index("uq_people_email", "people", [sa.text("lower(email)")], unique=True, postgresql_where=living)
    op.create_index(
        "uq_people_subject", "people", ["issuer", "subject"], unique=True, postgresql_where=sa.text("subject <> ''")
    )
    op.create_table(
        "roles_given",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        _person(),
        sa.Column("register_id", sa.Integer, sa.ForeignKey("registers.id")),
        sa.Column("role", sa.String(12), nullable=False),
    )
    op.create_index(
        "uq_roles_given", "roles_given", ["person_id", sa.text("coalesce(register_id, 0)"), "role"], unique=True
    )
    op.create_table(
        "signed_in",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        _person(index=True),
        sa.Column("secret", sa.String(64), nullable=False, unique=True),
        sa.Column("address", sa.Text, nullable=False),
        sa.Column("browser", sa.Text, nullable=False),
        sa.Column("at", _MOMENT, server_default=_NOW, nullable=False),
        sa.Column("seen_at", _MOMENT, server_default=_NOW, nullable=False),
        sa.Column("until", _MOMENT, nullable=False, index=True),
    )
    op.create_table(
        "access_tokens",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        _person(index=True),
        sa.Column("label", sa.Text, nullable=False),
        sa.Column("secret", sa.String(64), nullable=False, unique=True),
        sa.Column("roles", ARRAY(TEXT), nullable=False),
        sa.Column("registers", ARRAY(TEXT)),
        sa.Column("made_at", _MOMENT, server_default=_NOW, nullable=False),
        sa.Column("ends_on", sa.Date, nullable=False),
        sa.Column("used_at", _MOMENT),
    )
    op.create_table(
        "one_time_links",
        sa.Column("secret", sa.String(64), primary_key=True),
        _person(nullable=True),
        sa.Column("until", _MOMENT, nullable=False),
    )
    op.create_table(
        "guesses",
        sa.Column("about", sa.String(64), primary_key=True),
        sa.Column("tried", sa.Integer, nullable=False),
        sa.Column("last_at", _MOMENT, nullable=False, index=True),
        sa.Column("not_before", _MOMENT, nullable=False),
    )
    op.create_table(
        "known_browsers",
        sa.Column("secret", sa.String(64), primary_key=True),
        _person(index=True),
        sa.Column("seen_at", _MOMENT, server_default=_NOW, nullable=False),
    )


def downgrade() -> None:
    for table in ("known_browsers", "guesses", "one_time_links", "access_tokens", "signed_in", "roles_given", "people"):
        op.drop_table(table)
