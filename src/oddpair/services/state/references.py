"""References to another register: resolved by id where one is given, else by name; nobody is left without in silence."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.fields import Field, FieldKind
from ...core.text.tables import phrase
from ...core.tidying import tidy_row
from ...store import references as store
from ...store.registers import register_by_slug
from ...store.tables import Register
from .layouts import layout_of

_LIKELY = 5


@dataclass(frozen=True, slots=True)
class LikelyTarget:
    """A record that a reference might lead to."""

    record_id: int
    source: str
    source_key: str
    name: str


class Directory:
    """The records that may be referred to, looked up by id and by name."""

    def __init__(self, session: Session, register: Register) -> None:
        self._layout = layout_of(register)
        self.targets = store.targets(session, register.id)
        self._by_key: dict[str, list[store.Target]] = defaultdict(list)
        self._by_name: dict[str, list[store.Target]] = defaultdict(list)
        self._by_word: dict[str, list[store.Target]] = defaultdict(list)
        for target in self.targets:
            self._by_key[target.source_key].append(target)
            if target.name:
                self._by_name[target.name].append(target)
            for word in set(target.name.split()):
                self._by_word[word].append(target)

    def find(self, source: str, value: str) -> tuple[int | None, str]:
        """Return (the record that a value leads to, how that is known): an id of the same source before one of any."""
        by_key = self._by_key.get(value, [])
        for found in ([target for target in by_key if target.source == source], by_key):
            if found and len({target.group for target in found}) == 1:
                return found[0].record_id, "id"
        named = self._by_name.get(self._name(value), [])
        if named and len({target.group for target in named}) == 1:
            return named[0].record_id, "name"
        return None, "none"

    def _name(self, value: str) -> str:
        tidy = tidy_row(self._layout, {"name": value})
        return tidy.get("name") or " ".join(filter(None, (tidy.get("name.given"), tidy.get("name.family"))))

    def likely_targets(self, value: str) -> list[LikelyTarget]:
        """Return the records whose names share most with a value, one of each group; words that few names hold count for more."""
        scores: dict[int, float] = defaultdict(float)
        best: dict[int, store.Target] = {}
        for word in dict.fromkeys((*self._name(value).split(), *phrase(value).split())):
            holders = self._by_word.get(word, [])
            groups = {target.group for target in holders}
            for target in holders[:2000]:
                best.setdefault(target.group, target)
            for group in groups & best.keys():
                scores[group] += 1 / len(groups)
        first = sorted(scores, key=lambda group: (-scores[group], best[group].record_id))[:_LIKELY]
        return [LikelyTarget(best[g].record_id, best[g].source, best[g].source_key, best[g].name) for g in first]


def reference_fields(register: Register) -> Sequence[Field]:
    """Return the fields of a register that refer to another."""
    return [field for field in layout_of(register).fields if field.kind is FieldKind.REFERENCE]


def resolve(session: Session, register: Register) -> None:
    """Resolve all references of a register anew; what a person has linked stays while the record says the same."""
    for field in reference_fields(register):
        directory = Directory(session, register_by_slug(session, field.register))
        present = {target.record_id for target in directory.targets}
        hand = store.by_hand(session, register.id, field.name)
        rows: list[tuple[int, str, str, int | None, str, str]] = []
        found: dict[tuple[str, str], tuple[int | None, str]] = {}
        for item in store.referring(session, register.id, field.name):
            value, target, actor = hand.get(item.record_id, ("", None, ""))
            if actor and value == item.value and target in present:
                rows.append((item.record_id, field.name, item.value, target, "hand", actor))
                continue
            place = (item.source, item.value)
            if place not in found:
                found[place] = directory.find(*place)
            rows.append((item.record_id, field.name, item.value, *found[place], ""))
        store.replace_references(session, register.id, field.name, rows)
