"""A simulated business register: the true firms of the demo's customers, asked by name or number.

The interface is the one that Odd Pair asks any trusted reference by: ``GET /?name=…`` or ``GET /?number=…`` answers
``{"found": [{"number": …, "name": …, "status": …, "values": {field: value}}]}``, likeliest first, ``values`` by Odd Pair's names of fields.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from random import Random
from typing import Annotated

from fastapi import FastAPI, Query
from pydantic import BaseModel

from ..core.text.folding import fold, split_words
from ..demo.entities import Organisation, make_organisations
from ..demo.scenario import REGISTERS, SEED

_MOST = 20


class Company(BaseModel):
    """A registered firm."""

    number: str
    name: str
    status: str
    values: dict[str, str]


class Found(BaseModel):
    """The firms that were found."""

    found: list[Company]


@dataclass(frozen=True, slots=True)
class _Entered:
    words: tuple[str, ...]
    company: Company


def _company(place: int, firm: Organisation) -> Company:
    values = {
        "name": f"{firm.name} {firm.legal_form}", "address.line": firm.place.line, "address.postcode": firm.place.postcode,
        "address.city": firm.place.town, "address.country": firm.place.country.code, "tax_number": firm.tax_number,
        "web_site": firm.web_site,
    }  # fmt: skip
    number = f"07{place:06d}"
    status = "dissolved" if place % 40 == 39 else "active"
    return Company(
        number=number, name=values["name"], status=status, values={name: value for name, value in values.items() if value}
    )  # fmt: skip


def _words(text: str) -> tuple[str, ...]:
    return tuple(split_words(fold(text)))


def companies() -> Sequence[Company]:
    """Return all firms of the simulated register."""
    [customers] = [register for register in REGISTERS if register.name == "Customers"]
    firms = make_organisations(Random(f"{SEED}/{customers.name}"), customers.entities, False)
    return [_company(place, firm) for place, firm in enumerate(firms)]


def create_business_register() -> FastAPI:
    """Return the simulated business register."""
    entered = [_Entered(_words(company.name), company) for company in companies()]
    app = FastAPI(title="Simulated business register", docs_url=None, redoc_url=None)

    @app.get("/")
    def find(
        name: Annotated[str, Query(max_length=200)] = "", number: Annotated[str, Query(max_length=40)] = ""
    ) -> Found:
        """Firms of a number, or whose names hold words that begin with those asked for."""
        if number:
            return Found(found=[one.company for one in entered if one.company.number == number.strip()])
        wanted = _words(name)
        fit = [
            one.company for one in entered
            if wanted and all(any(word.startswith(part) for word in one.words) for part in wanted)
        ]  # fmt: skip
        return Found(found=sorted(fit, key=lambda company: (len(company.name), company.name))[:_MOST])

    return app
