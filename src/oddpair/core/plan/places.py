"""Where in the text of a plan its problems stand, so that an editor can show each at its line."""

from dataclasses import dataclass

import yaml

from ..errors import Place, PlanInvalid
from ..fields import Layout
from .text import parse_plan, read_yaml


@dataclass(frozen=True, slots=True)
class PlacedProblem:
    """A problem: line and column from 1, and where the part it is about ends."""

    says: str
    line: int
    column: int
    last_line: int
    last_column: int


def placed_problems(text: str, layout: Layout) -> list[PlacedProblem]:
    """Return every problem of a plan given as text with its place; empty if there is none."""
    try:
        parse_plan(text, layout)
    except PlanInvalid as error:
        broken = _unreadable(text)
        if broken is not None:
            return [broken]
        root = yaml.compose(text, yaml.SafeLoader)
        return [_placed(says, root, place) for says, place in zip(error.problems, error.places, strict=True)]
    return []


def _unreadable(text: str) -> PlacedProblem | None:
    """Return what is wrong with a text that is not YAML at all."""
    try:
        read_yaml(text)
    except yaml.MarkedYAMLError as error:
        mark = error.problem_mark or error.context_mark
        line, column = (mark.line + 1, mark.column + 1) if mark else (1, 1)
        return PlacedProblem(f"not readable as YAML: {error.problem or error.context}", line, column, line, column + 1)
    except (yaml.YAMLError, ValueError, RecursionError) as error:
        return PlacedProblem(f"not readable as YAML: {error}", 1, 1, 1, 2)
    except PlanInvalid as error:
        return PlacedProblem(error.problems[0], 1, 1, 1, 2)
    return None


def _placed(says: str, root: yaml.Node | None, place: Place) -> PlacedProblem:
    node = root
    for part in place:
        inner = _inside(node, part)
        if inner is None:
            break
        node = inner
    if node is None or not place or node is root:
        return PlacedProblem(says, 1, 1, 1, 2)
    start, end = node.start_mark, node.end_mark
    # A block ends where the next one begins; what is marked is its own first line.
    if end.line > start.line:
        return PlacedProblem(says, start.line + 1, start.column + 1, start.line + 1, start.column + 2)
    return PlacedProblem(says, start.line + 1, start.column + 1, end.line + 1, end.column + 1)


def _inside(node: yaml.Node | None, part: str | int) -> yaml.Node | None:
    if isinstance(node, yaml.MappingNode):
        for key, value in node.value:
            if key.value == part:
                found: yaml.Node = value if isinstance(value, yaml.ScalarNode) or part in _LARGE else key
                return found
        return None
    if isinstance(node, yaml.SequenceNode) and isinstance(part, int) and part < len(node.value):
        item: yaml.Node = node.value[part]
        return item
    return None


#: Parts with more inside, which are walked into rather than marked themselves.
_LARGE = frozenset(
    "limits blocking keys narrow_by comparisons correlated weights probabilities learning vetoes conditions clustering related scope "
    "passes further options among_same among_related bits learned take also_at when all any not fields one_side other_side".split()
)
