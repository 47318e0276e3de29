"""Settings: one table of name, default and help, read from the environment at the edges and handed in."""

import os
from hashlib import sha256
from ipaddress import ip_address
from pathlib import Path
from tempfile import gettempdir
from typing import Self
from urllib.parse import urlsplit

from pydantic import Field, model_validator
from pydantic_settings import BaseSettings, SettingsConfigDict


def default_data_folder() -> Path:
    """Return where data lives: /var/lib/odd-pair for root, else the user's data home."""
    if os.geteuid() == 0:
        return Path("/var/lib/odd-pair")
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "odd-pair"


def _is_loopback(address: str) -> bool:
    try:
        return ip_address(address).is_loopback
    except ValueError:
        return address == "localhost"


#: The system keeps the address of a socket in so many bytes.
_LONGEST_SOCKET = 100


class Settings(BaseSettings):
    """All settings; each can be given as an environment variable ODD_PAIR_<NAME>."""

    model_config = SettingsConfigDict(env_prefix="ODD_PAIR_")

    data: Path = Field(
        default_factory=default_data_folder, description="Folder that holds the database and delivered files."
    )
    port: int = Field(default=8470, ge=1, le=65535, description="Port of the web application, on 127.0.0.1.")
    database_port: int = Field(
        default=0, ge=0, le=65535, description="Port of the private PostgreSQL; 0 takes a free one."
    )
    database_url: str = Field(
        default="", description="postgresql:// address of the database; set by the start command."
    )
    actor: str = Field(
        default="steward",
        min_length=1,
        max_length=80,
        description="Name under which is kept what commands do, and, where nobody signs in, what is done in the browser.",
    )
    sign_in: bool = Field(
        default=True,
        description="Whether people sign in. Off, whoever reaches the port may do everything, so it is reached from this machine only.",
    )
    listen: str = Field(
        default="127.0.0.1",
        description="Address of this machine at which the web application listens; another than a loopback address takes a public "
        "address, and people who sign in.",
    )
    public_address: str = Field(
        default="",
        pattern=r"^(https://[^/?#@\s]+)?$",
        description="Web address under which others reach Odd Pair, such as https://register.example, usually that of a reverse proxy.",
    )
    proxies: tuple[str, ...] = Field(
        default=(), description="Addresses of reverse proxies, whose word on who asks, and whether by TLS, is taken."
    )
    openid_issuer: str = Field(
        default="",
        description="Web address of an OpenID Connect provider by which people sign in too; its metadata are read below it.",
    )
    openid_client: str = Field(default="", description="Under which client id the provider knows Odd Pair.")
    openid_secret_file: str = Field(
        default="", description="File that holds the client secret; none for a public client."
    )
    openid_name: str = Field(
        default="your organisation",
        max_length=40,
        description="What the button for signing in by the provider calls it.",
    )
    most_upload_bytes: int = Field(
        default=1_000_000_000, ge=1000, description="Largest file that can be brought in, in bytes."
    )
    spare_bytes: int = Field(
        default=300_000_000,
        ge=0,
        description="So many bytes stay free on the disk of the data folder: work that would take more of it stops.",
    )
    more_hosts: tuple[str, ...] = Field(
        default=(), description="Further names, besides 127.0.0.1 and localhost, under which this machine is asked."
    )
    query_hosts: tuple[str, ...] = Field(
        default=(), description="Addresses on this machine or in private networks that a source's query may ask."
    )
    index_processes: int = Field(
        default=2,
        ge=1,
        le=16,
        description="Processes that answer look-ups; each keeps an index of all registers in memory.",
    )
    asking_origins: tuple[str, ...] = Field(
        default=(),
        description="Web origins, such as http://127.0.0.1:3333, of clients in a browser that may ask the reconciliation service and show "
        "its previews.",
    )
    incoming_folder: str = Field(
        default="",
        description="Folder below which other programs put files for sources that deliver unattended; incoming, in the data folder, "
        "where none is given.",
    )
    outgoing_folder: str = Field(
        default="",
        description="Folder below which tables are sent out unattended; outgoing, in the data folder, where none is given.",
    )
    web: Path = Field(
        default=Path(__file__).parents[2] / "web" / "dist", description="Folder with the built front end."
    )

    @property
    def behind_tls(self) -> bool:
        """Whether people reach Odd Pair by TLS, so that cookies go no other way."""
        return bool(self.public_address)

    @property
    def own_address(self) -> str:
        """Return the web address under which people reach Odd Pair."""
        return self.public_address or f"http://127.0.0.1:{self.port}"

    @property
    def own_hosts(self) -> list[str]:
        """Return the names under which Odd Pair is asked."""
        public = urlsplit(self.public_address).hostname
        return ["127.0.0.1", "localhost", *self.more_hosts, *([public] if public else [])]

    @property
    def beyond_loopback(self) -> bool:
        """Whether other machines reach Odd Pair: it listens to them, or a proxy does for it."""
        return bool(self.public_address) or not _is_loopback(self.listen)

    @model_validator(mode="after")
    def _open_only_to_who_signs_in(self) -> Self:
        if not self.sign_in and self.beyond_loopback:
            raise ValueError("beyond this machine people have to sign in: leave ODD_PAIR_SIGN_IN on")
        if not _is_loopback(self.listen) and not self.public_address:
            raise ValueError(
                f"to listen at {self.listen}, say under which address others reach it: ODD_PAIR_PUBLIC_ADDRESS=https://…"
            )
        return self

    @property
    def deliveries(self) -> Path:
        """Return the folder that keeps delivered files."""
        return self.data / "deliveries"

    @property
    def incoming(self) -> Path:
        """Return the folder below which other programs put files for sources that take them unattended."""
        return Path(self.incoming_folder) if self.incoming_folder else self.data / "incoming"

    @property
    def outgoing(self) -> Path:
        """Return the folder below which tables are sent out unattended."""
        return Path(self.outgoing_folder) if self.outgoing_folder else self.data / "outgoing"

    @property
    def bench_socket(self) -> Path:
        """Return the socket at which the process of the plan bench answers, in a folder that only its owner may enter."""
        return self._socket("bench.sock")

    @property
    def index_sockets(self) -> tuple[Path, ...]:
        """Return the sockets at which the processes of the standing index answer look-ups, in the same folder."""
        return tuple(self._socket(f"index-{number}.sock") for number in range(self.index_processes))

    def _socket(self, name: str) -> Path:
        usual = self.data / "run" / name
        if len(str(usual)) <= _LONGEST_SOCKET:
            return usual
        return Path(gettempdir()) / f"odd-pair-{sha256(str(self.data).encode()).hexdigest()[:12]}" / name

    @property
    def kept(self) -> Path:
        """Return the folder that keeps what was read for the next job."""
        return self.data / "kept"

    @property
    def sqlalchemy_url(self) -> str:
        """Return the database address in SQLAlchemy's form."""
        return self.database_url.replace("postgresql://", "postgresql+psycopg://", 1)
