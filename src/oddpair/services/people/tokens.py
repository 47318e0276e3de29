"""Tokens: what programs show instead of a password. Each ends on a day, and may be cut down to some roles and registers."""

from collections.abc import Collection, Sequence
from datetime import UTC, date, datetime, timedelta

from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...core.rights import Role
from ...store import journal
from ...store import people as store
from ...store.registers import all_registers
from ...store.tables import AccessToken
from .secret_words import digest, fresh_secret
from .who import TOKEN_PREFIX

_SHARED, _MOST = 0, 50
LASTS_AT_MOST = timedelta(days=366)


def tokens(session: Session, person_id: int) -> Sequence[AccessToken]:
    """Return a person's tokens, the latest first."""
    return store.tokens_of(session, person_id)


def make_token(
    session: Session, person_id: int, *, label: str, roles: Collection[Role], registers: Collection[str] | None, ends_on: date
) -> tuple[AccessToken, str]:  # fmt: skip
    """Make a token that acts as a person; return it with its secret, which is shown this once."""
    person, label, today = store.person_by_id(session, person_id), label.strip(), datetime.now(UTC).date()
    if not label:
        raise Refused("A token has a name, which says what program shows it.")
    if not today <= ends_on <= today + LASTS_AT_MOST:
        raise Refused(f"A token ends within a year: between {today} and {today + LASTS_AT_MOST}.")
    if not roles:
        raise Refused("A token without a role could do nothing.")
    known = {one.slug for one in all_registers(session)}
    for slug in registers or ():
        if slug not in known:
            raise NotFound("register", slug)
    if len(store.tokens_of(session, person_id)) >= _MOST:
        raise Refused(f"{person.name} has {_MOST} tokens already; end one first.")
    secret = fresh_secret(TOKEN_PREFIX)
    token = AccessToken(
        person_id=person_id, label=label, secret=digest(secret), roles=sorted(role.value for role in set(roles)),
        registers=None if registers is None else sorted(set(registers)), ends_on=ends_on,
    )  # fmt: skip
    session.add(token)
    session.flush()
    _note(session, person.name, person_id, token, f"Made the token '{label}', good until {ends_on}")
    return token, secret


def end_token(session: Session, person_id: int, token_id: int, *, actor: str) -> None:
    """End a token at once."""
    token = store.end_token(session, person_id, token_id)
    _note(session, actor, person_id, token, f"Ended the token '{token.label}'")


def _note(session: Session, actor: str, person_id: int, token: AccessToken, summary: str) -> None:
    data = {"token": token.id, "roles": token.roles, "registers": token.registers, "ends_on": str(token.ends_on)}
    journal.append(
        session,
        _SHARED,
        "token",
        actor=actor,
        data=data,
        personal={"summary": summary},
        touches=[("person", person_id)],
    )
