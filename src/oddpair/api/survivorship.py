"""Survivorship rules as they are sent."""

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from .dependencies import Text


class RuleStep(BaseModel):
    """A survivorship rule in a chain: ``by`` which, and what it asks for: a field, sources in order, values of the field."""

    by: Annotated[Text, Field(max_length=40)]
    field: Annotated[Text, Field(max_length=80)] = ""
    sources: Annotated[list[Annotated[Text, Field(max_length=200)]], Field(max_length=100)] = []
    values: Annotated[list[Annotated[Text, Field(max_length=200)]], Field(max_length=100)] = []


#: How golden values are written.
GoldenForm = Literal["as delivered", "standard"]
#: A chain of rules, each tie going to the next.
Chain = Annotated[list[RuleStep], Field(min_length=1, max_length=8)]


class SurvivorshipIn(BaseModel):
    """Chains of survivorship rules by field or group (the name of one rule stands for a chain of it), and in which form golden
    values are given."""

    rules: Annotated[dict[Text, Text | Chain], Field(max_length=300)] = {}
    form: GoldenForm | None = None

    def documents(self) -> dict[str, object]:
        """Return the chains as they are kept."""
        return {
            unit: chain if isinstance(chain, str) else [step.model_dump(exclude_defaults=True) for step in chain]
            for unit, chain in self.rules.items()
        }


class RulesChange(SurvivorshipIn):
    """Rules to be set, and of which settings they are a change."""

    seen_version: Annotated[int, Field(ge=1, le=2**31 - 1)]


def chain_out(document: object) -> list[RuleStep]:
    """Return a chain as it is kept, a single rule or one that takes nothing being its name, in one shape."""
    steps = document if isinstance(document, list) else [document]
    return [RuleStep.model_validate({"by": step} if isinstance(step, str) else step) for step in steps]
