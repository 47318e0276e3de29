"""Plans written before scores were log odds get a successor that can be read: the default plan of their kind.

The earlier plan stays as it was written, as an earlier version.
"""

import sqlalchemy as sa
from alembic import op

from oddpair.core.errors import PlanInvalid
from oddpair.core.fields import RegisterKind
from oddpair.core.plan import parse_plan
from oddpair.core.plan.text import default_plan_text

revision: str = "0003"
down_revision: str | None = "0002"
branch_labels: None = None
depends_on: None = None

_IN_FORCE = """
SELECT DISTINCT ON (p.register_id) p.register_id, p.version, p.yaml, r.kind
FROM plans p JOIN registers r ON r.id = p.register_id
ORDER BY p.register_id, p.version DESC
"""
_SUCCESSOR = """
INSERT INTO plans (register_id, version, yaml, actor, note)
VALUES (:register_id, :version, :yaml, 'Odd Pair', :note)
"""


def _readable(yaml: str) -> bool:
    try:
        parse_plan(yaml)
    except PlanInvalid:
        return False
    return True


def upgrade() -> None:
    connection = op.get_bind()
    for row in connection.execute(sa.text(_IN_FORCE)).all():
        if not _readable(row.yaml):
            note = f"default plan, since scores are now log odds; what was set before stands in version {row.version}"
            yaml = default_plan_text(RegisterKind(row.kind))
            values = {"register_id": row.register_id, "version": row.version + 1, "yaml": yaml, "note": note}
            connection.execute(sa.text(_SUCCESSOR), values)


def downgrade() -> None:
    """Nothing to undo: the plans added are versions like any other."""
