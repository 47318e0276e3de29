"""Which golden records are asked for, as it is sent: by the list, by what is sent out, by what is saved of both."""

from typing import Annotated, Literal

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field

from ..services.golden import golden_list
from ..services.golden.send_out import Wanted
from .dependencies import Text

Columns = Annotated[list[Annotated[Text, Field(max_length=80)]], Field(max_length=400)]
Table = Literal["golden", "crosswalk", "members", "keys", "changes"]
FileFormat = Literal["csv", "xlsx", "jsonl", "parquet", "vcf"]


class GoldenAsked(BaseModel):
    """Which golden records: found by words or beginnings of words of keys and values; with a record of one source, without one of
    another; of so many records; of a country; changed since a moment; pinned; contradictory; with a field empty."""

    model_config = ConfigDict(extra="forbid")
    search: Annotated[Text, Field(max_length=200)] = ""
    source: Annotated[Text, Field(max_length=200)] = ""
    without: Annotated[Text, Field(max_length=200)] = ""
    least_members: Annotated[int, Field(ge=0, le=10**6)] = 0
    most_members: Annotated[int, Field(ge=0, le=10**6)] = 0
    country: Annotated[Text, Field(max_length=100)] = ""
    changed_since: AwareDatetime | None = None
    pinned: bool = False
    contradictory: bool = False
    empty: Annotated[Text, Field(max_length=80)] = ""

    def asked(self) -> golden_list.Asked:
        """Return what is asked for."""
        return golden_list.Asked(**{name: getattr(self, name) for name in GoldenAsked.model_fields})


class GoldenListAsked(GoldenAsked):
    """A page of a list: ordered by records, key, moment of change, name, number of filled fields, by how well key and name fit the search,
    or by the values of a field; ``turned`` the other way round."""

    order: Literal["members", "key", "changed", "name", "filled", "match"] = "members"
    order_field: Annotated[Text, Field(max_length=80)] = ""
    turned: bool = False
    cursor: Annotated[Text, Field(max_length=2000)] = ""
    limit: Annotated[int, Field(ge=1, le=500)] = 100

    @property
    def by(self) -> golden_list.Order:
        """Return the order."""
        return golden_list.Order(self.order, self.order_field, self.turned)


class SavedView(GoldenListAsked):
    """A view of the list of golden records as it is saved, with the columns that it shows."""

    columns: Columns = []


class SendOutAsked(GoldenAsked):
    """What is sent out: of golden records those asked for, with the chosen columns in that order (none: all); values as the register
    keeps them, in standard form, or for people to read, kinds of streets abbreviated and regions by name if wished, and ``further`` a
    column per field or group with all distinct values; of changes those since a moment."""

    columns: Columns = []
    written: Literal["as kept", "standard", "for people"] = "as kept"
    since: AwareDatetime | None = None
    further: bool = False
    short_streets: bool = False
    region_names: bool = False

    def wanted(self) -> Wanted:
        """Return what is wanted."""
        return Wanted(
            tuple(self.columns),
            self.asked(),
            self.written,
            self.since,
            self.further,
            self.short_streets,
            self.region_names,
        )


class SavedSendOut(SendOutAsked):
    """A send-out as it is saved: of which table, in which format."""

    table: Table = "golden"
    file_format: FileFormat = "csv"
