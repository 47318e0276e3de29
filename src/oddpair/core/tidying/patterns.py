"""Search and replace by pattern: written by hand, or built from examples on which a person marked the part that counts.

A pattern that runs away is stopped. What is kept never hangs on how quick a machine is: the work fails and names the pattern.
"""

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import groupby

import regex

from ..errors import InputError, Refused

_LONGEST_PATTERN = 500
#: A pattern may look at one value for so long, in seconds: while a person tries it out, and where its outcome is kept.
PATIENCE_S, PATIENCE_AT_WORK_S = 0.05, 5.0
_LEAST_FIXED_DIGITS = 3


class RunawayPattern(Refused):
    """A pattern took too long on a value."""

    def __init__(self, pattern: str, value: str) -> None:
        super().__init__(
            f"The pattern '{pattern}' was stopped: it takes too long on '{value[:80]}'. Repetitions inside repetitions do that."
        )


@lru_cache(maxsize=500)
def compiled(pattern: str) -> "regex.Pattern[str]":
    """Return a compiled pattern; raise InputError if it is none."""
    if not pattern or len(pattern) > _LONGEST_PATTERN:
        raise InputError(f"a pattern has between one and {_LONGEST_PATTERN} letters")
    try:
        return regex.compile(pattern)
    except (regex.error, RecursionError, OverflowError) as error:
        raise InputError(f"'{pattern}' is not a pattern: {error}") from error


def check_replacement(pattern: str, replacement: str) -> None:
    """Raise InputError if the replacement cannot be used: a group that the pattern lacks, an escape that is none."""
    probe = compiled(pattern)
    for named in re.findall(r"\\(\d{1,2})", replacement):
        if int(named) > probe.groups:
            raise InputError(f"the replacement names group {named}, the pattern has {probe.groups}")
    try:
        # A replacement is read at the first match, so there must be one: with an empty alternative, everything matches.
        regex.compile(f"(?:{pattern})|").sub(replacement, "", timeout=PATIENCE_S)
    except TimeoutError:
        return
    except (regex.error, IndexError, KeyError, ValueError, TypeError) as error:
        raise InputError(f"'{replacement}' cannot be put in place of a match: {error}") from error


def replace(pattern: str, replacement: str, text: str, *, patience_s: float = PATIENCE_AT_WORK_S) -> str:
    """Return the text with every match replaced; raise RunawayPattern if that takes too long."""
    try:
        return str(compiled(pattern).sub(replacement, text, timeout=patience_s))
    except TimeoutError as error:
        raise RunawayPattern(pattern, text) from error


def extract(pattern: str, text: str, *, patience_s: float = PATIENCE_AT_WORK_S) -> str:
    """Return the first match (its first group if it has one), or the text as it is without one; raise RunawayPattern."""
    try:
        found = compiled(pattern).search(text, timeout=patience_s)
    except TimeoutError as error:
        raise RunawayPattern(pattern, text) from error
    if found is None:
        return text
    return str((found.group(1) if compiled(pattern).groups else found.group()) or "")


@dataclass(frozen=True, slots=True)
class MarkedExample:
    """A value with the marked part from ``start`` to ``end``, in letters; nothing is marked where both are the same."""

    text: str
    start: int
    end: int

    @property
    def marked(self) -> str:
        """Return the marked part."""
        return self.text[self.start : self.end]


def _class_of(letter: str) -> str:
    if letter.isdigit():
        return r"\d"
    if letter.isalpha():
        return r"\p{Lu}" if letter.isupper() else r"\p{Ll}" if letter.islower() else r"\p{L}"
    return r"\s" if letter.isspace() else letter


def _runs(text: str) -> list[tuple[str, str]]:
    """Return (class, text) of runs of letters of one class."""
    return [(name, "".join(letters)) for name, letters in groupby(text, key=_class_of)]


def _generalised(parts: Sequence[str]) -> list[str]:
    """Return patterns that fit all texts, the most exact first; none if their runs differ."""
    runs = [_runs(part) for part in parts]
    if len({tuple(name for name, _ in run) for run in runs}) != 1:
        letters = [[("L" if name.startswith(r"\p") else name) for name, _ in run] for run in runs]
        merged = [[key for key, _ in groupby(row)] for row in letters]
        if len({tuple(row) for row in merged}) == 1:
            return ["".join(r"\p{L}+" if key == "L" else rf"{_safe(key)}+" for key in merged[0])]
        return [r"\S+", ".+"] if all(part and not re.search(r"\s", part) for part in parts) else [".+"]
    exact, loose = "", ""
    for column in zip(*runs, strict=True):
        name, texts = column[0][0], [text for _, text in column]
        sizes = {len(text) for text in texts}
        is_mark = not name.startswith("\\")
        if len(set(texts)) == 1 and (is_mark or len(parts) > 1):
            exact += regex.escape(texts[0])
        else:
            # Long numbers of one form, codes and years, have one length; words and counts have any.
            fixed = name == r"\d" and len(sizes) == 1 and min(sizes) >= _LEAST_FIXED_DIGITS
            single = sizes == {1} and name != r"\d"
            exact += _safe(name) + ("" if single else f"{{{min(sizes)}}}" if fixed else "+")
        loose += regex.escape(texts[0]) if is_mark and len(set(texts)) == 1 else f"{_safe(name)}+"
    return [exact, loose]


def _safe(name: str) -> str:
    return name if name.startswith("\\") else regex.escape(name)


def _contexts(texts: Sequence[str], at_edge: str, common: Callable[[Sequence[str]], str]) -> Iterator[str]:
    """Yield patterns of what stands beside the marked part, the loosest first."""
    yield ""
    shared = common(texts)
    for size in range(1, min(len(shared), 12) + 1):
        yield shared[-size:] if at_edge == "^" else shared[:size]
    if all(not text for text in texts):
        yield at_edge
    classes = {_class_of(text[-1] if at_edge == "^" else text[0]) for text in texts if text}
    if len(classes) == 1 and all(texts):
        yield f"\0{classes.pop()}"


def _common_end(texts: Sequence[str]) -> str:
    return _common_start([text[::-1] for text in texts])[::-1]


def _common_start(texts: Sequence[str]) -> str:
    shortest = min(texts, key=len)
    return next((shortest[:n] for n, letter in enumerate(shortest) if any(t[n] != letter for t in texts)), shortest)


def _around(context: str, edge: str) -> str:
    if context in ("", edge):
        return context
    inner = _safe(context[1:]) if context.startswith("\0") else regex.escape(context)
    return f"(?<={inner})" if edge == "^" else f"(?={inner})"


def pattern_from(examples: Sequence[MarkedExample]) -> str:
    """Return the simplest pattern whose first match is the marked part of every example, and none where nothing is marked.

    The marked parts are generalised run by run (digits, capitals, small letters, blanks, marks); what stands before and
    behind them is added only as far as it is needed. Raises InputError if no such pattern is found.
    """
    marked = [example for example in examples if example.start < example.end]
    if not marked:
        raise InputError("mark the part that counts in at least one example")
    befores = [example.text[: example.start] for example in marked]
    behinds = [example.text[example.end :] for example in marked]
    lefts, rights = list(_contexts(befores, "^", _common_end)), list(_contexts(behinds, "$", _common_start))
    for core in _generalised([example.marked for example in marked]):
        for cost in range(len(lefts) + len(rights) - 1):
            for left in range(min(cost, len(lefts) - 1) + 1):
                if (right := cost - left) < len(rights):
                    pattern = _around(lefts[left], "^") + core + _around(rights[right], "$")
                    if all(_fits(pattern, example) for example in examples):
                        return pattern
    raise InputError("no pattern fits all examples; take one away, or mark parts that look more alike")


def _fits(pattern: str, example: MarkedExample) -> bool:
    found = compiled(pattern).search(example.text, timeout=PATIENCE_S)
    if example.start >= example.end:
        return found is None
    return found is not None and found.span() == (example.start, example.end)
