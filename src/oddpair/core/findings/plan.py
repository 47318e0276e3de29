"""The plan of findings: which fields of two registers are held against each other, and how common a value may be."""

from collections.abc import Iterator
from typing import Literal

import yaml
from pydantic import Field, ValidationError

from ..errors import PlanInvalid, did_you_mean
from ..fields import FieldKind, Layout, RegisterKind
from ..plan.parts import Part

FAMILY: Literal["family name and address"] = "family name and address"
Using = Literal["phone", "email", "identifier", "value", "address", "family name and address"]


class Shared(Part):
    """One thing that two records may share: the fields of either side, and ``using`` what they are held against each other.

    An address counts where it is the same front door of a known place; the family name of a person counts where an organisation's name
    holds it and the two addresses are in one street.
    """

    title: str = Field(min_length=1, max_length=80)
    using: Using
    one: str
    other: str


class FindingsPlan(Part):
    """What is looked for. A value that more than ``most_holders`` of either side hold is nobody's own (a business park, a switchboard)."""

    title: str = Field(min_length=1, max_length=120)
    shared: tuple[Shared, ...] = Field(min_length=1, max_length=26)
    most_holders: int = Field(default=5, ge=1, le=1000)

    def problems(self, one: Layout, other: Layout) -> Iterator[str]:
        """Yield what is wrong with the plan for two layouts."""
        for rule in self.shared:
            for field, layout in ((rule.one, one), (rule.other, other)):
                known = set(layout.names) | {name.partition(".")[0] for name in layout.names}
                if field not in known:
                    yield f"'{rule.title}': no field '{field}'.{did_you_mean(field, known)}"
            if rule.using == FAMILY and other.kind is not RegisterKind.PERSON:
                yield f"'{rule.title}': only people of the other register have family names"


def parse_findings_plan(text: str, one: Layout, other: Layout) -> FindingsPlan:
    """Return the plan written in ``text``; raise PlanInvalid with every problem found."""
    try:
        document = yaml.safe_load(text)
        plan = FindingsPlan.model_validate(document)
    except (yaml.YAMLError, RecursionError) as error:
        raise PlanInvalid([f"not readable as YAML: {error}"]) from error
    except ValidationError as error:
        raise PlanInvalid(
            f"{'.'.join(str(part) for part in problem['loc']) or 'plan'}: {problem['msg']}"
            for problem in error.errors()
        ) from error
    problems = list(plan.problems(one, other))
    if problems:
        raise PlanInvalid(problems)
    return plan


_OF_KIND: dict[FieldKind, Using] = {
    FieldKind.PHONE: "phone", FieldKind.EMAIL: "email", FieldKind.IDENTIFIER: "identifier",
}  # fmt: skip


def usual_plan(title: str, one: Layout, other: Layout) -> FindingsPlan:
    """Return the plan to begin with: every field of contact and every number that both layouts have, addresses, and family names."""
    shared = []
    for field in one.fields:
        using = _OF_KIND.get(field.kind)
        twin = next((item for item in other.fields if item.name == field.name and item.kind is field.kind), None)
        if using and twin:
            shared.append(Shared(title=field.label.lower(), using=using, one=field.name, other=twin.name))
    if all("address.line" in layout.names for layout in (one, other)):
        shared.append(Shared(title="address", using="address", one="address", other="address"))
        if one.kind is RegisterKind.ORGANISATION and other.kind is RegisterKind.PERSON:
            shared.append(Shared(title=FAMILY, using=FAMILY, one="address", other="address"))
    if not shared:
        raise PlanInvalid(["the two registers have no fields that could be shared"])
    return FindingsPlan(title=title, shared=tuple(shared))
