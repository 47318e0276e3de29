"""The address of a PostgreSQL database that a source asks: its secret taken out, its host looked up and checked."""

import ipaddress
import socket
from collections.abc import Collection

import psycopg
from psycopg.conninfo import conninfo_to_dict, make_conninfo

from ..core.errors import InputError

_SECRET_PARTS = frozenset({"password", "sslpassword", "passfile", "service"})
_KNOWN_PARTS = frozenset({"host", "hostaddr", "port", "dbname", "user", "sslmode", "sslrootcert", "connect_timeout"})


def split_address(address: str, password: str = "") -> tuple[str, str]:
    """Return (the address without its password, the password): "postgresql://user@host:port/name" or "host=… dbname=…".

    Raises InputError without repeating the address, which may hold a secret.
    """
    try:
        parts = {key: str(value) for key, value in conninfo_to_dict(address.strip()).items() if value is not None}
    except psycopg.ProgrammingError as error:
        raise InputError(
            "this is no address of a PostgreSQL database (postgresql://user@host:port/database)"
        ) from error
    found = password or parts.get("password", "")
    unknown = sorted(set(parts) - _KNOWN_PARTS - _SECRET_PARTS)
    if unknown:
        raise InputError(f"'{unknown[0]}' cannot be set here, only {', '.join(sorted(_KNOWN_PARTS))}")
    known = {key: value for key, value in parts.items() if key in _KNOWN_PARTS}
    if not known.get("dbname") or not (known.get("host") or known.get("hostaddr")):
        raise InputError("the address must name a host and a database")
    return make_conninfo("", **known), found


def checked_address(address: str, allowed_hosts: Collection[str]) -> str:
    """Return the address with its host looked up, so that what was checked is what is asked.

    This machine and private networks are closed, for who may ask a query could else reach what only this machine reaches;
    ``allowed_hosts`` (names or numbers) are open all the same. Raises InputError.
    """
    parts = {key: str(value) for key, value in conninfo_to_dict(address).items() if value is not None}
    host, number = parts.get("host", ""), parts.get("hostaddr", "")
    asked = number or host
    if "," in f"{host}{number}" or asked.startswith(("/", "@")):
        raise InputError(f"'{asked}' cannot be asked: one host, by its name or number, can")
    try:
        found = [str(item[4][0]) for item in socket.getaddrinfo(asked, None, type=socket.SOCK_STREAM)]
    except OSError as error:
        raise InputError(f"the host '{asked}' is not known") from error
    open_ = [item for item in found if ipaddress.ip_address(item.partition("%")[0]).is_global or item in allowed_hosts]
    if not open_ and asked not in allowed_hosts:
        raise InputError(
            f"'{asked}' is this machine or in a private network; who runs this application can allow it (ODD_PAIR_QUERY_HOSTS)"
        )
    return make_conninfo(address, hostaddr=(open_ or found)[0])
