"""Commands that start the application or work on its database."""

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Annotated

import typer

from ..settings import Settings

PortOption = Annotated[int | None, typer.Option(help="Port of the web application on 127.0.0.1.", min=1, max=65535)]
DataOption = Annotated[
    Path | None, typer.Option(help="Folder that holds the database and delivered files.", file_okay=False)
]


def settings_from(port: int | None, data: Path | None) -> Settings:
    """Return the settings with what the command line says instead of the environment."""
    chosen = {"port": port, "data": data.resolve() if data else None}
    return Settings(**{name: value for name, value in chosen.items() if value is not None})  # type: ignore[arg-type]


def start(port: PortOption = None, data: DataOption = None) -> None:
    """Start Odd Pair with the data of last time."""
    from ..launch.supervisor import start as run

    run(settings_from(port, data), demo=False)


def demo(
    port: PortOption = None,
    data: DataOption = None,
    scale: Annotated[float, typer.Option(help="Multiplies the size of the demo data.", min=0.02, max=50)] = 1.0,
) -> None:
    """Start Odd Pair; the first time with the demo data of the Kittiwake Chandlery Group."""
    from ..launch.supervisor import start as run

    run(settings_from(port, data), demo=True, demo_scale=scale)


def send_out(
    register: Annotated[str, typer.Argument(help="Short name of the register, as in its address.")],
    out: Annotated[Path, typer.Option(help="Folder that receives the tables.", file_okay=False)],
    format_: Annotated[str, typer.Option("--format", help="csv, xlsx, jsonl or parquet.")] = "csv",
    saved: Annotated[
        str, typer.Option(help="Run the send-out that was saved under this name, in its own format.")
    ] = "",
    data: DataOption = None,
) -> None:
    """Write the golden records and the crosswalk of a register, or a saved send-out, to a folder; Odd Pair may be running meanwhile."""
    from ..api.send_out import saved_wanted
    from ..files.writers import CONTENT_TYPES, table_chunks
    from ..launch.supervisor import database_of
    from ..services.golden.send_out import out_table, out_tables
    from ..services.transactions import open_sessions

    formats = [name for name in CONTENT_TYPES if name != "vcf"]
    if format_ not in formats:
        raise typer.BadParameter(f"'{format_}' is not one of {', '.join(formats)}", param_hint="--format")
    settings = settings_from(None, data)
    with database_of(settings) as url, open_sessions(url) as sessions, sessions.begin() as session:
        out.mkdir(parents=True, exist_ok=True)
        tables = out_tables(session, register)
        if saved:
            name, format_, wanted = saved_wanted(session, register, saved, actor=settings.actor)
            tables = iter([out_table(session, register, name, wanted, format_)])
        for table in tables:
            path = out / f"{table.name}.{format_}"
            rows = _Counted(table.rows)
            with path.open("wb") as file:
                file.writelines(table_chunks(format_, table.columns, rows, table.name))
            typer.echo(f"odd-pair: {rows.count} rows in {path}", err=True)


class _Counted:
    """Rows that are counted as they go by."""

    def __init__(self, rows: Iterator[dict[str, str]]) -> None:
        self._rows, self.count = rows, 0

    def __iter__(self) -> Iterator[dict[str, str]]:
        for row in self._rows:
            self.count += 1
            yield row


def openapi() -> None:
    """Print the description of the HTTP API (OpenAPI)."""
    from ..api.app import create_app
    from ..store.database import make_engine, make_sessions

    settings = Settings(database_url="postgresql://nobody@127.0.0.1:1/none", web=Path("/nonexistent"))
    app = create_app(settings, make_sessions(make_engine(settings.sqlalchemy_url)))
    typer.echo(json.dumps(app.openapi(), indent=2, sort_keys=True))
