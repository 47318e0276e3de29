"""People for tests: accounts with roles, and what they show."""

from datetime import UTC, datetime

from oddpair.core.rights import Role
from oddpair.services.people import accounts, tokens
from oddpair.services.people.accounts import Roles
from oddpair.services.transactions import Session, SessionFactory
from oddpair.store.tables import Person

PASSWORD = "heron under seven lanterns"


def add(session: Session, name: str, roles: Roles) -> tuple[Person, str]:
    """Add an account; return it with the secret of its link."""
    return accounts.add_person(session, name=name, sign_in=name.lower(), roles=roles, actor="Odd Pair")


def bearer(token: str) -> dict[str, str]:
    """Return the header with which a program shows a token."""
    return {"Authorization": f"Bearer {token}"}


def as_person(sessions: SessionFactory, role: Role | None, slug: str) -> dict[str, str]:
    """Add a person with a role in a register, or with none; return what a program of theirs shows."""
    with sessions.begin() as session:
        name = f"{role.value if role else 'nobody'} '{slug}'"
        person, _ = add(session, name, {slug: [role]} if role else {})
        today = datetime.now(UTC).date()
        _, secret = tokens.make_token(session, person.id, label="test", roles=list(Role), registers=None, ends_on=today)
    return bearer(secret)
