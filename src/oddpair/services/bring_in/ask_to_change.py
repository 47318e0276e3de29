"""Asking for a delivery to be taken back, or put back: the work itself is done in the background."""

from sqlalchemy.orm import Session

from ...core.sign_off import Facts, Matter
from ...store import deliveries as store
from ...store.registers import register_by_slug
from ...store.tables import Job
from .. import work
from ..proposals.gate import Intent, Line, ask_second_yes
from .take_back import preview_take_back

TAKE_BACK, PUT_BACK = "take-back", "put-back"


def ask_to_change(session: Session, slug: str, delivery_id: int, change: str, *, actor: str) -> Job:
    """Ask for a delivery to be taken back or put back."""
    register, delivery = register_by_slug(session, slug), store.delivery_in(session, slug, delivery_id)
    verb = "Take back" if change == TAKE_BACK else "Put back"
    matter = Matter.DELETION if change == TAKE_BACK else Matter.MEMBERSHIP

    def shown() -> list[Line]:
        if change == PUT_BACK:
            return []
        would = preview_take_back(session, delivery_id)
        return [
            ("Records that leave", "", str(would.withdrawn)),
            ("Records that go back to an earlier delivery", "", str(would.restored)),
            ("Golden records that lose records", "", str(would.golden)),
        ]

    intent = Intent(
        change, {"delivery_id": delivery_id}, Facts(matter, f"delivery {delivery_id}", many=True),
        f"{verb} the delivery '{delivery.file_name}'", touches=[("delivery", delivery_id)], leads_to=f"bring-in/{delivery_id}",
    )  # fmt: skip
    ask_second_yes(session, register, intent, actor=actor, shown=shown)
    return work.ask_for(
        session, slug, change, f"{verb} {delivery.file_name}", {"delivery_id": delivery_id, "actor": actor}
    )
