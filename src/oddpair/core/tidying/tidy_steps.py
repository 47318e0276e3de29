"""Tidy steps: which steps are applied to which field, and in which order."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from ..errors import InputError, did_you_mean
from ..joint_codes import distinct_rows
from ..records import Column, RecordSet, column_from_codes, encode, further
from .patterns import PATIENCE_AT_WORK_S, PATIENCE_S, RunawayPattern
from .steps import (
    Application,
    Step,
    Tables,
    application_of,
    reads_fields,
    step_from,
)

_MOST_STEPS = 40


@dataclass(frozen=True)
class TidySteps:
    """Steps per field, and the tables they use. Without steps nothing changes."""

    steps: Mapping[str, tuple[Step, ...]] = field(default_factory=dict)
    tables: Tables = field(default_factory=dict)

    @cached_property
    def ready(self) -> "dict[str, FieldSteps]":
        """Return the steps of every field, ready to be applied."""
        return {name: FieldSteps(steps, self.tables) for name, steps in self.steps.items()}

    def __reduce__(self) -> tuple[type["TidySteps"], tuple[object, ...]]:
        """What is ready to be applied holds functions, which cannot be sent to another process and are made there."""
        return TidySteps, (self.steps, self.tables)


NOTHING = TidySteps()


def tidy_steps_from(
    document: Mapping[str, Sequence[Mapping[str, object]]], tables: Tables, fields: Sequence[str]
) -> TidySteps:
    """Return the tidy steps that a document ``{field: [step, ...]}`` says; raise InputError naming field and step."""
    steps: dict[str, tuple[Step, ...]] = {}
    for name, documents in document.items():
        if name not in fields:
            raise InputError(f"there is no field '{name}'.{did_you_mean(name, fields)}")
        if len(documents) > _MOST_STEPS:
            raise InputError(f"a field has at most {_MOST_STEPS} steps", column=name)
        read = []
        for number, item in enumerate(documents, start=1):
            try:
                step = step_from(item)
                application_of(step, tables)
            except InputError as error:
                raise InputError(
                    error.problem, column=f"{name}, step {number}" + (f", {error.column}" if error.column else "")
                ) from error
            for other in reads_fields(step):
                if other not in fields:
                    raise InputError(
                        f"there is no field '{other}'.{did_you_mean(other, fields)}", column=f"{name}, step {number}"
                    )
            read.append(step)
        if read:
            steps[name] = tuple(read)
    return TidySteps(steps, {name: tables[name] for name in sorted(_tables_of(steps))})


def _tables_of(steps: Mapping[str, tuple[Step, ...]]) -> set[str]:
    return {step.parameters["table"] for of_field in steps.values() for step in of_field if "table" in step.parameters}


@dataclass(frozen=True, slots=True)
class Tried:
    """What a field's steps make of a value: the value after each step; ``stopped`` tells of a pattern that ran away."""

    after: tuple[str, ...]
    stopped: str = ""


class FieldSteps:
    """The steps of one field, ready to be applied to many values."""

    def __init__(self, steps: Sequence[Step], tables: Tables) -> None:
        self._made: list[Application] = [application_of(step, tables) for step in steps]
        self.reads = sorted({name for step in steps for name in reads_fields(step)})
        self._runaway: set[int] = set()

    def trace(self, value: str, row: Mapping[str, str]) -> Tried:
        """Return the value after every step, for a person who tries them out: what runs away is left out."""
        after, stopped = [], ""
        for place, step in enumerate(self._made):
            try:
                # A pattern that ran away once is not tried again: it would take as long on every value.
                value = value if place in self._runaway else step(value, row, patience_s=PATIENCE_S)
            except RunawayPattern as error:
                self._runaway.add(place)
                stopped = str(error)
            after.append(value)
        return Tried(tuple(after), stopped)

    def apply(self, value: str, row: Mapping[str, str], patience_s: float = PATIENCE_AT_WORK_S) -> str:
        """Return the value after the last step; raise RunawayPattern where a pattern takes longer than ``patience_s``."""
        for step in self._made:
            value = step(value, row, patience_s)
        return value


def prepare_columns(tidy_steps: TidySteps, columns: Mapping[str, Sequence[str]], count: int) -> dict[str, list[str]]:
    """Return the columns of ``count`` records after the tidy steps. All steps read the values as they were delivered.

    Further values of a field go through the same steps; only a field's first value is filled from another field.
    """
    prepared = {name: list(values) for name, values in columns.items()}
    empty = [""] * count
    for name, ready in tidy_steps.ready.items():
        others = [columns.get(other, empty) for other in ready.reads]
        places = [name, *(column for column in columns if column.partition("#")[0] == name and column != name)]
        for place in places:
            reads = others if place == name else []
            if place not in columns and not reads:
                continue
            combinations = list(zip(columns.get(place, empty), *reads, strict=True))
            outcome = {
                key: ready.apply(key[0], dict(zip(ready.reads, key[1:], strict=False)))
                for key in dict.fromkeys(combinations)
            }
            prepared[place] = [outcome[key] for key in combinations]
    return prepared


def prepare_row(tidy_steps: TidySteps, row: Mapping[str, str]) -> dict[str, str]:
    """Return the filled fields of one record after the tidy steps."""
    columns = prepare_columns(tidy_steps, {name: [value] for name, value in row.items()}, 1)
    return {name: values[0] for name, values in columns.items() if values[0]}


def prepare_records(tidy_steps: TidySteps, records: RecordSet) -> RecordSet:
    """Return the same records with the tidy steps applied to their fields."""
    columns = dict(records.columns)
    for name, ready in tidy_steps.ready.items():
        for place in range(records.places(name)):
            column = further(name, place)
            if place == 0 and ready.reads:
                columns[column] = _with_others(ready, records, column)
            elif column in records.columns:
                own = records.columns[column]
                columns[column] = column_from_codes([ready.apply(value, {}) for value in own.values], own.codes)
    return RecordSet(records.sources, records.source_codes, records.ids, columns)


def _with_others(ready: FieldSteps, records: RecordSet, name: str) -> Column:
    inputs = [records.column(name), *(records.column(other) for other in ready.reads)]
    first, which = distinct_rows([column.codes for column in inputs])
    values = [
        ready.apply(own, dict(zip(ready.reads, others, strict=True)))
        for own, *others in (
            [column.values[code] if code >= 0 else "" for column, code in zip(inputs, row, strict=True)]
            for row in zip(*(column.codes[first].tolist() for column in inputs), strict=True)
        )
    ]
    return encode([values[place] for place in which.tolist()])
