"""Who asks, and what they may do: looked up anew for every request, so that what is ended has ended everywhere at once."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta

from sqlalchemy.orm import Session

from ...core.errors import NotAllowed, NotSignedIn
from ...core.rights import PERMISSIONS, Permission, Role, may, permissions_of, who_may
from ...store import people as store
from ...store.registers import all_slugs
from ..transactions import DriverConnection
from .secret_words import digest

#: Who does nothing for so long has to sign in again.
IDLE_S = 12 * 3600.0
#: When a browser or token was used last is kept to the minute: a write for every read would cost more than it tells.
_SEEN_EVERY = timedelta(minutes=1)
TOKEN_PREFIX = "oddp_"


@dataclass(frozen=True, slots=True)
class Who:
    """Who asks: a person, in a browser or by a token, or, where nobody signs in, whoever sits at this machine.

    ``everywhere`` are the roles in every register, ``in_register`` those in single ones, by short name. ``only`` names the registers to
    which a token is cut down, None for all.
    """

    name: str
    person_id: int | None = None
    signed_in_id: int | None = None
    by_token: bool = False
    everywhere: frozenset[Role] = frozenset()
    in_register: Mapping[str, frozenset[Role]] = field(default_factory=dict)
    only: frozenset[str] | None = None

    def roles(self, slug: str) -> frozenset[Role]:
        """Return the roles in a register."""
        if self.only is not None and slug not in self.only:
            return frozenset()
        return self.everywhere | self.in_register.get(slug, frozenset())

    def roles_anywhere(self) -> frozenset[Role]:
        """Return the roles in any register."""
        return self.everywhere.union(*self.in_register.values())

    def may(self, permission: Permission, slug: str) -> bool:
        """Whether something is permitted in a register."""
        return may(self.roles(slug), permission)

    def may_everywhere(self, permission: Permission) -> bool:
        """Whether something is permitted in every register, also those to come."""
        return self.only is None and may(self.everywhere, permission)

    def permissions(self, slug: str) -> frozenset[Permission]:
        """Return what may be done in a register."""
        return permissions_of(self.roles(slug))


def whoever_sits_here(name: str) -> Who:
    """Return somebody who may do everything: where nobody signs in."""
    return Who(name, everywhere=frozenset(Role))


def who_shows(connection: DriverConnection, *, cookie: str = "", token: str = "") -> Who:
    """Return whom a cookie or, before it, a token stands for; raise NotSignedIn where that is nobody or has ended."""
    secret = digest(token or cookie)
    found = store.shown_by_token(connection, secret) if token else store.shown_by_cookie(connection, secret, IDLE_S)
    if found is None:
        raise NotSignedIn(
            "This token is not known, or has ended." if token else "Nobody is signed in here; sign in first."
        )
    now = datetime.now(UTC)
    if found.seen_at is None or now - found.seen_at > _SEEN_EVERY:
        store.note_seen(connection, secret, token=bool(token))
    return _who(found, by_token=bool(token))


def _who(found: store.Shown, *, by_token: bool) -> Who:
    everywhere, single = set[Role](), dict[str, set[Role]]()
    for slug, role in found.roles:
        if found.only_roles is not None and role not in found.only_roles:
            continue
        (everywhere if slug is None else single.setdefault(slug, set())).add(Role(role))
    only = None if found.only_registers is None else frozenset(found.only_registers)
    if only is not None:
        single = {slug: roles for slug, roles in single.items() if slug in only}
    return Who(
        found.name, found.person_id, found.signed_in_id, by_token, frozenset(everywhere),
        {slug: frozenset(roles) for slug, roles in single.items()}, only,
    )  # fmt: skip


def registers_known(session: Session, who: Who) -> list[str]:
    """Return the short names of the registers in which somebody has a role, in the order in which these were made."""
    return [slug for slug in all_slugs(session) if who.roles(slug)]


def check(who: Who, permission: Permission, slugs: Collection[str]) -> None:
    """Raise NotAllowed unless something is permitted in all of some registers."""
    for slug in slugs:
        if not who.may(permission, slug):
            raise NotAllowed(_why(who, permission, slug))


def check_anywhere(who: Who, permission: Permission) -> None:
    """Raise NotAllowed unless something is permitted in some register."""
    if not may(who.roles_anywhere(), permission):
        raise NotAllowed(_why(who, permission, ""))


def check_everywhere(who: Who, permission: Permission) -> None:
    """Raise NotAllowed unless something is permitted in every register, also those to come."""
    if not who.may_everywhere(permission):
        raise NotAllowed(f"{_why(who, permission, '')} It takes the role in every register.")


def _why(who: Who, permission: Permission, slug: str) -> str:
    roles = who.roles(slug) if slug else who.roles_anywhere()
    where = f" in '{slug}'" if slug else ""
    has = " and ".join(role.value for role in Role if role in roles)
    you = (
        f"{who.name} is {has} there"
        if has and slug
        else f"{who.name} is {has}"
        if has
        else f"{who.name} has no role there"
    )
    return f"Only {who_may(permission)} may {PERMISSIONS[permission]}{where}; {you}."
