"""The command that looks the rows of a file up in another file or in a register."""

import json
import sys
from pathlib import Path
from typing import Annotated

import typer

from ..core.counterparts import Limits
from ..core.fields import RegisterKind
from ..core.plan import default_plan, parse_plan
from ..services.counterparts.settings import ListSettings
from ..services.offline.look_up_files import LookUpFiles, look_up_files
from .files import StderrProgress, read_map
from .server import DataOption, settings_from


def look_up(
    file: Annotated[Path, typer.Argument(exists=True, dir_okay=False, readable=True, metavar="FILE")],
    in_: Annotated[str, typer.Option("--in", help="A file, or the short name of a register.")],
    out: Annotated[Path, typer.Option(help="Table to write; its ending says the format.", dir_okay=False)],
    kind: Annotated[
        RegisterKind | None, typer.Option(help="What the records stand for; a register knows it by itself.")
    ] = None,
    best: Annotated[int, typer.Option(help="How many candidates a row are told.", min=1, max=100)] = 1,
    keep: Annotated[str, typer.Option(help="Columns of the counterpart to attach, with commas between them.")] = "",
    one_to_one: Annotated[
        bool, typer.Option("--one-to-one", help="Neither side has duplicates: the best pairing over all.")
    ] = False,
    matched_from: Annotated[float | None, typer.Option(help="Bits from which on a row is matched.")] = None,
    none_below: Annotated[float | None, typer.Option(help="Bits below which there is no counterpart.")] = None,
    margin: Annotated[float, typer.Option(help="By how many bits the best must lead.", min=0)] = 3.0,
    plan: Annotated[Path | None, typer.Option(help="Match plan (YAML) instead of the usual one.", exists=True)] = None,
    map_: Annotated[
        Path | None,
        typer.Option(
            "--map", help="Column mappings (YAML): {file stem: {column: field}}; '*' for any file.", exists=True
        ),
    ] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
    data: DataOption = None,
) -> None:
    """Look the rows of FILE up in a register or in another file, without changing either.

    The table that is written has a line per row and candidate, with all columns of FILE, the outcome (matched, several, unsure, none,
    rejected), and rank, id, score in bits, probability and reason of the candidate, with the columns kept of it.

    Progress goes to stderr. Exit status: 0 done, 1 the work failed, 2 wrong use.
    """
    kept = tuple(name.strip() for name in keep.split(",") if name.strip())
    reference = Path(in_)
    if not reference.is_file():
        if reference.suffix or reference.parent != Path():
            raise typer.BadParameter(f"there is no file '{in_}'", param_hint="--in")
        text = plan.read_text(encoding="utf-8") if plan else ""
        settings = ListSettings(best, kept, matched_from, none_below, margin, one_to_one, (), text)
        tell(_in_register(in_, file, out, settings, read_map(map_), data), as_json)
        return
    if kind is None:
        raise typer.BadParameter("say what the records stand for", param_hint="--kind")
    chosen = parse_plan(plan.read_text(encoding="utf-8")) if plan else default_plan(kind)
    limits = Limits(
        chosen.limits.same if matched_from is None else matched_from,
        chosen.limits.unsure if none_below is None else none_below,
        margin,
        best,
    )
    asked = LookUpFiles(
        file, reference, out, best, tuple(name.strip() for name in keep.split(",") if name.strip()), one_to_one, limits,
        read_map(map_),
    )  # fmt: skip
    tell(look_up_files(asked, chosen, StderrProgress()), as_json)


def _in_register(
    slug: str, file: Path, out: Path, settings: ListSettings, map_document: object, data: Path | None
) -> dict[str, object]:
    from ..launch.supervisor import database_of
    from ..services.counterparts.file_in_register import look_up_file
    from ..services.transactions import open_sessions

    of_folder = settings_from(None, data)
    with database_of(of_folder) as url, open_sessions(url) as sessions:
        return look_up_file(
            sessions,
            slug,
            file,
            out,
            settings,
            StderrProgress(),
            map_document=map_document,
            kept=of_folder.kept,
        )


def tell(report: dict[str, object], as_json: bool) -> None:
    """Print a report: as JSON on stdout, or its counts in a line on stderr."""
    if as_json:
        print(json.dumps(report, indent=2, ensure_ascii=False))
        return
    outcomes = report["outcomes"]
    counts = ", ".join(f"{count} {name}" for name, count in outcomes.items()) if isinstance(outcomes, dict) else ""
    print(f"odd-pair: {report['rows']} rows: {counts}; written to {report['out']}", file=sys.stderr)
