"""Tidy steps: what a person lets be done to a field's delivered values before they are understood by their kind.

Every step takes a value and gives one; it never raises on any text. Steps are kept as documents ``{"do": name, ...}``.
"""

import re
import unicodedata
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Protocol

from anyascii import anyascii

from ..errors import InputError, did_you_mean
from . import patterns
from .patterns import PATIENCE_AT_WORK_S
from .word_tables import WordTable

Tables = Mapping[str, WordTable]
_ACCENTS = re.compile("[\u0300-\u036f]")
_MARKS = re.compile(r"[^\w\s]|_")
_MOST_WIDTH = 100


@dataclass(frozen=True, slots=True)
class Parameter:
    """A parameter of a step: what it is called, its label, and how it is asked for.

    ``ask`` is text, number, choice (of ``choices``), field or table.
    """

    name: str
    label: str
    ask: str
    choices: tuple[str, ...] = ()
    default: str = ""


@dataclass(frozen=True, slots=True)
class StepKind:
    """A kind of step: its name, what it says, its parameters, and the function that makes it."""

    name: str
    says: str
    parameters: tuple[Parameter, ...]
    make: Callable[[Mapping[str, str], Tables], "Application"]


@dataclass(frozen=True, slots=True)
class Step:
    """A step as it is kept: the name of its kind and its parameters."""

    do: str
    parameters: Mapping[str, str] = field(default_factory=dict)


class Application(Protocol):
    """What is done to a value of a row; a step that could take long is stopped after so many seconds."""

    def __call__(self, value: str, row: Mapping[str, str], patience_s: float = PATIENCE_AT_WORK_S) -> str:
        """Return the value after the step."""


def _simple(change: Callable[[str], str]) -> Callable[[Mapping[str, str], Tables], Application]:
    return lambda parameters, tables: lambda value, row, patience_s=PATIENCE_AT_WORK_S: change(value)


def _without_accents(text: str) -> str:
    return unicodedata.normalize("NFC", _ACCENTS.sub("", unicodedata.normalize("NFD", text)))


_CASES: dict[str, Callable[[str], str]] = {
    "small letters": str.lower, "capitals": str.upper, "Each Word With A Capital": str.title,
    "First word with a capital": lambda text: text[:1].upper() + text[1:].lower(),
}  # fmt: skip


def _case(parameters: Mapping[str, str], tables: Tables) -> Application:
    change = _CASES[parameters["to"]]
    return lambda value, row, patience_s=PATIENCE_AT_WORK_S: change(value)


def _punctuation(parameters: Mapping[str, str], tables: Tables) -> Application:
    letters, blank = set(parameters["keep"]), " " if parameters["by"] == "a blank" else ""
    return lambda value, row, patience_s=PATIENCE_AT_WORK_S: _MARKS.sub(
        lambda found: found.group() if found.group() in letters else blank, value
    )


def _pad(parameters: Mapping[str, str], tables: Tables) -> Application:
    width, mark = int(parameters["width"]), parameters["with"][:1] or "0"
    if parameters["at"] == "the front":
        return lambda value, row, patience_s=PATIENCE_AT_WORK_S: value.rjust(width, mark) if value else value
    return lambda value, row, patience_s=PATIENCE_AT_WORK_S: value.ljust(width, mark) if value else value


def _part(parameters: Mapping[str, str], tables: Tables) -> Application:
    separator, number = parameters["between"], int(parameters["number"])

    def take(value: str, row: Mapping[str, str], patience_s: float = PATIENCE_AT_WORK_S) -> str:
        parts = value.split(separator)
        place = number - 1 if number > 0 else len(parts) + number
        return parts[place].strip() if 0 <= place < len(parts) and len(parts) > 1 else value

    return take


def _letters(parameters: Mapping[str, str], tables: Tables) -> Application:
    count = int(parameters["number"])
    if parameters["which"] == "the first":
        return lambda value, row, patience_s=PATIENCE_AT_WORK_S: value[:count]
    return lambda value, row, patience_s=PATIENCE_AT_WORK_S: value[-count:]


def _pattern(parameters: Mapping[str, str], tables: Tables) -> Application:
    pattern, replacement = parameters["pattern"], parameters["with"]
    patterns.check_replacement(pattern, replacement)
    return lambda value, row, patience_s=PATIENCE_AT_WORK_S: patterns.replace(
        pattern, replacement, value, patience_s=patience_s
    )


def _keep(parameters: Mapping[str, str], tables: Tables) -> Application:
    pattern = parameters["pattern"]
    patterns.compiled(pattern)
    return lambda value, row, patience_s=PATIENCE_AT_WORK_S: patterns.extract(pattern, value, patience_s=patience_s)


def _table(parameters: Mapping[str, str], tables: Tables) -> Application:
    name = parameters["table"]
    if name not in tables:
        raise InputError(f"there is no table '{name}'.{did_you_mean(name, tables)}")
    return lambda value, row, patience_s=PATIENCE_AT_WORK_S: tables[name].apply(value)


def _fill(parameters: Mapping[str, str], tables: Tables) -> Application:
    source = parameters["from"]
    return lambda value, row, patience_s=PATIENCE_AT_WORK_S: value or row.get(source, "")


def _join(parameters: Mapping[str, str], tables: Tables) -> Application:
    source, between = parameters["from"], parameters["between"]
    return lambda value, row, patience_s=PATIENCE_AT_WORK_S: between.join(
        part for part in (value, row.get(source, "")) if part
    )


def _number(name: str, label: str, default: str) -> Parameter:
    return Parameter(name, label, "number", default=default)


STEP_KINDS = {
    kind.name: kind
    for kind in (
        StepKind("spaces", "Single blanks between words, none at the ends", (), _simple(lambda text: " ".join(text.split()))),
        StepKind("case", "Capitals and small letters", (Parameter("to", "to", "choice", tuple(_CASES), "small letters"),), _case),
        StepKind(
            "punctuation", "Punctuation away",
            (Parameter("keep", "but keep", "text"), Parameter("by", "put", "choice", ("a blank", "nothing"), "a blank")), _punctuation,
        ),
        StepKind("accents", "Accents away (é becomes e)", (), _simple(_without_accents)),
        StepKind("transliterate", "Other scripts in Latin letters", (), _simple(lambda text: text if text.isascii() else anyascii(text))),
        StepKind("swap words", "Swap by a table", (Parameter("table", "table", "table"),), _table),
        StepKind(
            "part", "Take a part",
            (_number("number", "part number (−1: the last)", "1"), Parameter("between", "divided by", "text", default=",")), _part,
        ),
        StepKind(
            "letters", "Keep some letters",
            (Parameter("which", "keep", "choice", ("the first", "the last"), "the first"), _number("number", "how many", "10")), _letters,
        ),
        StepKind(
            "pad", "Pad to a length",
            (_number("width", "length", "6"), Parameter("with", "with", "text", default="0"),
             Parameter("at", "at", "choice", ("the front", "the end"), "the front")), _pad,
        ),
        StepKind("replace", "Replace by pattern", (Parameter("pattern", "pattern", "text"), Parameter("with", "with", "text")), _pattern),
        StepKind("keep", "Keep only what fits a pattern", (Parameter("pattern", "pattern", "text"),), _keep),
        StepKind("fill", "Fill from another field where empty", (Parameter("from", "from", "field"),), _fill),
        StepKind(
            "join", "Join another field behind",
            (Parameter("from", "field", "field"), Parameter("between", "with between", "text", default=" ")), _join,
        ),
    )
}  # fmt: skip


def step_from(document: Mapping[str, object]) -> Step:
    """Return the step that a document says, defaults filled in; raise InputError if it names what there is not."""
    name = str(document.get("do", ""))
    kind = STEP_KINDS.get(name)
    if kind is None:
        raise InputError(f"there is no step '{name}'.{did_you_mean(name, STEP_KINDS)}")
    known = {parameter.name: parameter for parameter in kind.parameters}
    unknown = sorted(set(document) - {"do", *known})
    if unknown:
        raise InputError(f"the step '{name}' has no '{unknown[0]}'.{did_you_mean(unknown[0], known)}")
    values = {parameter.name: str(document.get(parameter.name, parameter.default)) for parameter in kind.parameters}
    for parameter in kind.parameters:
        _check(name, parameter, values[parameter.name])
    return Step(name, values)


def _check(step: str, parameter: Parameter, value: str) -> None:
    if parameter.ask == "choice" and value not in parameter.choices:
        raise InputError(f"'{value}' is not one of {', '.join(parameter.choices)}", column=f"{step}: {parameter.label}")
    if parameter.ask == "number" and not (re.fullmatch(r"-?\d{1,3}", value) and 0 < abs(int(value)) <= _MOST_WIDTH):
        raise InputError(f"'{value}' is not a number from 1 to {_MOST_WIDTH}", column=f"{step}: {parameter.label}")
    if parameter.ask == "number" and parameter.name == "width" and int(value) < 0:
        raise InputError(f"'{value}' is no length", column=f"{step}: {parameter.label}")
    needed = (
        parameter.ask in ("field", "table")
        or parameter.name == "pattern"
        or (step == "part" and parameter.ask == "text")
    )
    if needed and not value:
        raise InputError("is missing", column=f"{step}: {parameter.label}")


def document_of(step: Step) -> dict[str, str]:
    """Return the document of a step."""
    return {"do": step.do, **step.parameters}


def reads_fields(step: Step) -> list[str]:
    """Return the other fields that a step reads."""
    return [step.parameters[item.name] for item in STEP_KINDS[step.do].parameters if item.ask == "field"]


def application_of(step: Step, tables: Tables) -> Application:
    """Return the function of a step; raise InputError if it cannot be made (no such table, a pattern that is none)."""
    return STEP_KINDS[step.do].make(step.parameters, tables)
