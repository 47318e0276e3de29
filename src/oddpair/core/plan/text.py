"""The plan as YAML text: reading with all problems reported at once, writing, and the default plans."""

import re
from functools import lru_cache
from importlib.resources import files

import yaml
from pydantic import ValidationError

from ..errors import PlanInvalid
from ..fields import Layout, RegisterKind, default_layout
from .model import MatchPlan


@lru_cache(maxsize=64)
def parse_plan(text: str, layout: Layout | None = None) -> MatchPlan:
    """Return the plan written in ``text``; raise PlanInvalid with every problem found.

    The fields it may name are those of ``layout``, else the usual ones of its kind. Plans are read far more often than they
    change, so those read last are remembered.
    """
    try:
        document = read_yaml(text)
    except (yaml.YAMLError, ValueError, RecursionError) as error:
        raise PlanInvalid([f"not readable as YAML: {error}"]) from error
    if not isinstance(document, dict):
        raise PlanInvalid(["the document must be a mapping with title, kind, limits, blocking and comparisons"])
    try:
        plan = MatchPlan.model_validate(document)
    except ValidationError as error:
        raise PlanInvalid(
            (
                f"{'.'.join(str(part) for part in problem['loc']) or 'plan'}: {problem['msg']}"
                for problem in error.errors()
            ),
            [problem["loc"] for problem in error.errors()],
        ) from error
    of_kind = layout if layout and layout.kind is plan.kind else default_layout(plan.kind)
    problems = list(plan.problems(of_kind))
    if problems:
        raise PlanInvalid((problem.says for problem in problems), [problem.place for problem in problems])
    return plan


def read_yaml(text: str) -> object:
    """Return what a text of YAML holds; raise PlanInvalid if it is nested too deeply, and what the reader of YAML raises."""
    if len(_OPENING.findall(text)) > _MOST_NESTED:
        raise PlanInvalid(["it is nested too deeply"])
    return yaml.load(text, _Loader)


def plan_to_yaml(plan: MatchPlan) -> str:
    """Return the plan as YAML that ``parse_plan`` reads back to an equal plan; what is as usual is not said."""
    document = plan.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    for part in (document, *document.get("passes", ())):
        for name in ("keys", "narrow_by"):
            if name in part.get("blocking", ()):
                part["blocking"][name] = _Lines(part["blocking"][name])
    return str(
        yaml.dump(document, Dumper=_Dumper, sort_keys=False, allow_unicode=True, width=130, default_flow_style=None)
    )


class _Lines(list[str]):
    """A list that is written with a line for each of its items."""


class _Dumper(yaml.SafeDumper):
    """Writes short parts on one line, and lists that are read line by line with a line each."""


_Dumper.add_representer(
    _Lines, lambda dumper, lines: dumper.represent_sequence("tag:yaml.org,2002:seq", lines, flow_style=False)
)

#: Brackets of one text; the reader of YAML goes one call deeper with each.
_MOST_NESTED = 2_000
_OPENING = re.compile(r"[\[{]")


class _Loader(yaml.SafeLoader):
    """Reads YAML as text, numbers and truth only: a title that looks like a date is still a title."""


_Loader.yaml_implicit_resolvers = {
    letter: [(tag, pattern) for tag, pattern in known if tag != "tag:yaml.org,2002:timestamp"]
    for letter, known in yaml.SafeLoader.yaml_implicit_resolvers.items()
}


def default_plan_text(kind: RegisterKind) -> str:
    """Return the YAML text, with its comments, of the plan that a new register of ``kind`` starts with."""
    return files(__package__).joinpath("plans").joinpath(f"{kind.value}.yaml").read_text(encoding="utf-8")


def default_plan(kind: RegisterKind) -> MatchPlan:
    """Return the plan that a new register of ``kind`` starts with."""
    return parse_plan(default_plan_text(kind))
