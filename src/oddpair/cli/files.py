"""Commands that work on files, without a database."""

import sys
import time
from pathlib import Path
from typing import Annotated

import typer
import yaml

from ..core.errors import MappingInvalid
from ..core.fields import RegisterKind
from ..core.plan import default_plan, parse_plan
from ..core.standard import AS_DELIVERED, STANDARD

#: Exit status of a run that is done, but set aside a large part of a file.
SET_ASIDE = 3
ExistingFile = typer.Option(exists=True, dir_okay=False, readable=True)


class StderrProgress:
    """Prints stages to stderr, at most a few lines a second."""

    def __init__(self) -> None:
        self._stage, self._printed_at = "", 0.0

    def __call__(self, stage: str, done: int, total: int) -> None:
        """Print how far a stage is."""
        now = time.monotonic()
        if stage == self._stage and now - self._printed_at < 1.0:
            return
        share = f" {100 * done // total} %" if total > 1 else ""
        print(f"odd-pair: {stage}{share}", file=sys.stderr, flush=True)
        self._stage, self._printed_at = stage, now


def match(
    files: Annotated[list[Path], typer.Argument(exists=True, dir_okay=False, readable=True, metavar="FILE...")],
    kind: Annotated[RegisterKind, typer.Option(help="What the records stand for.")],
    out: Annotated[
        Path, typer.Option(help="Folder that receives the results; made if it is not there.", file_okay=False)
    ],
    plan: Annotated[
        Path | None, typer.Option(help="Match plan (YAML) instead of the default one of the kind.", exists=True)
    ] = None,
    map_: Annotated[
        Path | None,
        typer.Option(
            "--map", help="Column mappings (YAML): {file stem: {column: field}}; '*' for any file.", exists=True
        ),
    ] = None,
    no_duplicates: Annotated[
        list[str] | None,
        typer.Option(help="Name of a source that promises to have no duplicates of its own; may be repeated."),
    ] = None,
    reference: Annotated[
        list[str] | None,
        typer.Option(
            help="Name of a source that the others are compared with, and with nothing else; may be repeated."
        ),
    ] = None,
    as_delivered: Annotated[
        bool, typer.Option("--as-delivered", help="Write golden values as sources wrote them, not in standard form.")
    ] = False,
    keep: Annotated[
        Path | None,
        typer.Option(
            help="Folder in which tidy values are kept, for the next run over the same files; it holds what they hold.",
            file_okay=False,
        ),
    ] = None,
) -> None:
    """Match the records of FILES and write the results to a folder.

    Each FILE is a source, named after its stem: CSV of any common dialect and encoding, XLSX, or JSON Lines. Which column
    is which field is told from headers and contents, or by --map.

    The folder receives pairs.csv (source_a, id_a, source_b, id_b, score in bits, verdict same or unsure, reason),
    clusters.csv (source, source_id, cluster_id; every record stands in it), golden.csv, crosswalk.csv, rejected.csv (rows
    set aside, with reasons) and report.json (counts, seconds per stage, versions, plan).

    Progress goes to stderr. Exit status: 0 done, 1 the run failed, 2 wrong use, 3 done, but a large part of a file was set aside.
    """
    from ..services.offline.match_files import match_files

    chosen = parse_plan(plan.read_text(encoding="utf-8")) if plan else default_plan(kind)
    if chosen.kind != kind:
        raise typer.BadParameter(
            f"the plan is for records of kind {chosen.kind.value}, not {kind.value}", param_hint="--plan"
        )
    result = match_files(
        files,
        chosen,
        out,
        map_document=read_map(map_),
        plan_name=plan.name if plan else f"default plan for {kind.value}",
        without_duplicates=no_duplicates or (),
        references=reference or (),
        kept=keep,
        form=AS_DELIVERED if as_delivered else STANDARD,
        progress=StderrProgress(),
    )
    report = result.report
    print(
        f"odd-pair: {report['records']} records, {report['rejected']} rejected rows, {report['pairs_same']} pairs the same, "
        f"{report['pairs_unsure']} unsure, {report['clusters']} golden records; results in {out}",
        file=sys.stderr,
    )
    for warning in result.warnings:
        print(f"odd-pair: WARNING: {warning}", file=sys.stderr)
    if result.warnings:
        raise typer.Exit(SET_ASIDE)


def read_map(path: Path | None) -> object:
    """Return what a map document says, None without one; raise MappingInvalid if it cannot be read."""
    if path is None:
        return None
    try:
        return yaml.safe_load(path.read_text(encoding="utf-8")) or {}
    except yaml.YAMLError as error:
        raise MappingInvalid([f"{path.name} is not readable as YAML: {error}"]) from error


def evaluate(
    clusters: Annotated[Path, typer.Argument(exists=True, dir_okay=False, help="clusters.csv of a run.")],
    truth: Annotated[Path, typer.Option(exists=True, dir_okay=False, help="CSV with source, source_id, entity.")],
) -> None:
    """Measure clusters against a truth: pairwise and B-cubed precision, recall and F1.

    With the run's other files beside them also: the bands, the share of true pairs a person must see, precision and recall
    over limits, where true pairs were lost, and what each blocking key brings.
    """
    from ..services.offline.evaluate import evaluate_clusters
    from .evaluation import evaluation_lines

    print("\n".join(evaluation_lines(evaluate_clusters(clusters, truth))))


def sample(
    pairs: Annotated[Path, typer.Argument(exists=True, dir_okay=False, help="pairs.csv of a run.")],
    out: Annotated[Path, typer.Option(dir_okay=False, help="CSV file to decide pairs in.")],
    size: Annotated[int, typer.Option(help="About how many pairs.", min=8, max=100_000)] = 200,
) -> None:
    """Draw pairs of a run to decide by hand, evenly over the scores, for ``odd-pair estimate``."""
    from ..services.offline.evaluate import write_sample

    print(
        f"odd-pair: {write_sample(pairs, out, size)} pairs in {out}; write same or different into the column decision"
    )


def estimate(
    pairs: Annotated[Path, typer.Argument(exists=True, dir_okay=False, help="pairs.csv of a run.")],
    sample: Annotated[Path, typer.Option(exists=True, dir_okay=False, help="The sample with its decisions.")],
) -> None:
    """Estimate a run's quality, with 95 % intervals, from a sample of decided pairs."""
    from ..services.offline.evaluate import estimate_from_sample

    result = estimate_from_sample(pairs, sample)
    print(f"decided pairs        {result.decided}")
    for name, value in (("precision of same", result.precision), ("found of those kept", result.recall)):
        print(f"{name:<20} {value.value:.4f}  (95 %: {value.low:.4f} to {value.high:.4f})")


def demo_data(
    out: Annotated[
        Path, typer.Option(help="Folder that receives one folder a register, each with five files and a truth.")
    ],
    seed: Annotated[int, typer.Option(help="The same seed gives the same files.")] = 20261123,
    scale: Annotated[float, typer.Option(help="Multiplies the number of entities.", min=0.01, max=200)] = 1.0,
    difficulty: Annotated[float, typer.Option(help="Multiplies the share of slips.", min=0, max=10)] = 1.0,
) -> None:
    """Make the files of the demo scenario, with their truth."""
    from ..demo import make_demo

    for file in make_demo(out, seed=seed, scale=scale, difficulty=difficulty):
        print(f"{file.path}  {file.records} records, {file.bad_rows} bad rows on purpose")


def warm_up() -> None:
    """Compile every kernel once, so that the first run of a person does not wait for it."""
    from ..services.offline.warm_up import warm_up as compile_kernels

    compile_kernels()
