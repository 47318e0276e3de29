"""What needs a second yes in a register: read, and set."""

from collections.abc import Mapping
from secrets import token_hex
from typing import Any

from sqlalchemy.orm import Session

from ...core.sign_off import Facts, Matter, Policy, policy_document, policy_from
from ...store import journal
from ...store.locks import lock_settings
from ...store.registers import register_by_slug
from ..state.layouts import layout_of
from ..state.versions import check_version
from .gate import Intent, ask_second_yes, changed_entries, policy_of

POLICY = "policy"
_SECRET = "salt"


def policy_in_force(session: Session, slug: str) -> tuple[Policy, int]:
    """Return (what needs a second yes in a register, the version of its settings)."""
    register = register_by_slug(session, slug)
    return policy_of(register), register.version


def set_policy(session: Session, slug: str, document: Mapping[str, Any], *, seen_version: int, actor: str) -> Policy:
    """Set what needs a second yes; where anything does already, this does, too.

    Raises Refused, or Conflict if settings changed meanwhile.
    """
    register = lock_settings(session, register_by_slug(session, slug).id)
    check_version(register, seen_version)
    before = policy_of(register)
    known = [field.name for field in layout_of(register).fields]
    # Drawn by a secret of the register's own, so that nobody can tell beforehand what is looked at.
    policy = policy_from({**document, _SECRET: before.salt or token_hex(16)}, known)
    was, will = (
        {name: value for name, value in policy_document(one).items() if name != _SECRET} for one in (before, policy)
    )
    summary = "Set what needs a second yes"
    arguments = {"document": will, "seen_version": seen_version}
    intent = Intent(
        POLICY, arguments, Facts(Matter.POLICY, POLICY), summary, changed_entries(was, will), leads_to="sign-off"
    )
    ask_second_yes(session, register, intent, actor=actor)
    register.sign_off = policy_document(policy)
    register.version += 1
    journal.append(
        session,
        register.id,
        "sign-off policy",
        actor=actor,
        data={"before": was, "after": will},
        personal={"summary": summary},
    )
    return policy
