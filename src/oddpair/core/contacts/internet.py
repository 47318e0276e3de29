"""E-mail addresses and web sites."""

import re
from functools import cache

from ..text.tables import read_lines

_EMAIL = re.compile(r"^[^@\s]+@[^@\s]+\.[^@\s]{2,}$")
_BETWEEN_EMAILS = re.compile(r"[;,|/\s]+")
#: Second-level labels under which countries register names for business ("co.uk").
_SHARED_LABELS = frozenset({"co", "com", "org", "net", "ac", "gov", "or", "ne"})


def split_emails(text: str) -> list[str]:
    """Return the addresses that a cell lists, between semicolons, commas, slashes or spaces."""
    return [part for part in _BETWEEN_EMAILS.split(text) if "@" in part] if text.count("@") > 1 else [text]


def tidy_email(text: str) -> str:
    """Return the address in lower case without a "+tag", and without dots where its provider ignores them; "" where it is
    not an address."""
    address = text.strip().strip("<>").removeprefix("mailto:").lower().rstrip(".;,")
    if not _EMAIL.match(address):
        return ""
    local, _, domain = address.partition("@")
    local = local.split("+", 1)[0] or local
    domain, ignores_dots = _providers().get(domain, (domain, False))
    return f"{local.replace('.', '') if ignores_dots else local}@{domain}"


@cache
def _providers() -> dict[str, tuple[str, bool]]:
    """Return domain → (the domain its provider writes, whether dots before the @ mean nothing there)."""
    table: dict[str, tuple[str, bool]] = {}
    for line in read_lines(__package__, "mail_providers.txt"):
        names, _, marks = line.partition(";")
        standard, _, others = names.partition(":")
        for domain in (standard, *others.split(",")):
            if domain.strip():
                table[domain.strip()] = standard.strip(), "ignores dots" in marks
    return table


def email_domain(address: str) -> str:
    """Return the domain of a tidy address, or "" where anybody can get an address there."""
    domain = registered_domain(address.partition("@")[2])
    return "" if domain in _free_mail() else domain


@cache
def _free_mail() -> frozenset[str]:
    return frozenset(name.strip() for line in read_lines(__package__, "free_mail.txt") for name in line.split(","))


def registered_domain(host: str) -> str:
    """Return the part of a host name that its owner registered ("shop.skua.co.uk" → "skua.co.uk")."""
    labels = [label for label in host.split(".") if label]
    if len(labels) < 2:
        return ""
    keep = 3 if len(labels) > 2 and len(labels[-1]) == 2 and labels[-2] in _SHARED_LABELS else 2
    return ".".join(labels[-keep:])


def tidy_web_site(text: str) -> str:
    """Return the registered domain of a web address, without scheme, path and "www"; "" where there is none."""
    host = re.sub(r"^[a-z]+://", "", text.strip().lower()).split("/", 1)[0].split("?", 1)[0].split(":", 1)[0]
    if "@" in host or " " in host:
        return ""
    return registered_domain(host)
