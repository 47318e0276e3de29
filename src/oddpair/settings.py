"""Settings: one table of name, default and help, read from the environment at the edges and handed in."""

import os
from hashlib import sha256
from pathlib import Path
from tempfile import gettempdir

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict


def default_data_folder() -> Path:
    """Return where data lives: /var/lib/odd-pair for root, else the user's data home."""
    if os.geteuid() == 0:
        return Path("/var/lib/odd-pair")
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "odd-pair"


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
        default="steward", min_length=1, max_length=80, description="Name under which decisions are kept."
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
