"""What the review desk sends and is sent."""

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from ..services.review.queue import QueueAsked
from .dependencies import Text

Number = Annotated[int, Field(ge=1, le=2**63 - 1)]
Records = Annotated[list[Number], Field(min_length=1, max_length=5000)]
#: One open window of a person.
Desk = Annotated[Text, Field(max_length=80)]
Person = Annotated[Text, Field(max_length=80)]


class QueueQuery(BaseModel):
    """Which doubts, in which order: by words of the records, kind, source, pairs or clusters alone, those that somebody is asked about;
    what other desks have before them is left out for a named one. ``work`` is one's own ("mine"), what nobody has ("pool"), or a piece of
    work by its number."""

    model_config = ConfigDict(extra="forbid")
    order: Literal["doubt", "score", "cluster", "value", "age"] = "doubt"
    search: Annotated[Text, Field(max_length=200)] = ""
    kind: Annotated[Text, Field(max_length=400)] = ""
    source: Annotated[Text, Field(max_length=200)] = ""
    what: Literal["", "pair", "cluster"] = ""
    asked: Person = ""
    work: Annotated[str, Field(pattern=r"^(mine|pool|[0-9]{0,9})$")] = ""

    def wanted(self, desk: str = "", person: str = "") -> QueueAsked:
        """Return what is asked for."""
        return QueueAsked(self.search, self.kind, self.source, self.what, self.asked, desk, self.work, person)


class SavedQueue(QueueQuery):
    """A view of the queue as it is saved."""


class SavedQueueOut(BaseModel):
    """A saved view of the queue."""

    name: str
    content: SavedQueue
    actor: str


class QueuePageQuery(QueueQuery):
    """A page of the queue, behind a cursor, for a desk."""

    desk: Desk = ""
    after: Annotated[Text, Field(max_length=400)] = ""
    limit: Annotated[int, Field(ge=1, le=500)] = 100


class QueuedOut(BaseModel):
    """A doubt that waits, with its kind in words: a pair, or a cluster with the two records at the ends of its weakest link.

    ``records`` counts those that a *same* would put together, ``value`` is the larger one in the register's field of value; ``changed``
    lists the fields in which records are others than when they were decided; one put off waits ``until`` a day, or for somebody
    ``asked``.
    """

    what: Literal["pair", "cluster"]
    cluster: int
    left_id: int
    right_id: int
    score: float
    kind: str
    kind_says: str
    changed: list[str]
    put_off: bool
    left_name: str
    right_name: str
    records: int
    value: float
    since: datetime
    until: date | None
    asked: str


class QueueOut(BaseModel):
    """A page of the queue: how many wait and are put off in all, and the cursor behind which the next page begins."""

    waiting: int
    put_off: int
    behind: str
    doubts: list[QueuedOut]


class FacedRecordOut(BaseModel):
    """A record as it was delivered, mapped onto fields, and tidied."""

    id: int
    source: str
    source_key: str
    fields: dict[str, str]
    tidy: dict[str, str]


class EvidenceOut(BaseModel):
    """What one comparison says, in bits for (+) or against (-)."""

    field: str
    label: str
    level: str
    bits: float
    sentence: str
    veto: bool


class DecisionOut(BaseModel):
    """A decision about a pair."""

    id: int
    left_id: int
    right_id: int
    verdict: str
    remark: str
    actor: str
    at: datetime
    until: date | None
    asked: str
    withdrawn_at: datetime | None
    withdrawn_by: str | None


class ContradictionOut(BaseModel):
    """Decisions that cannot all be right: one *different*, and the chain of *same* ones that says otherwise. ``id`` is 0 for what a
    decision about a group says."""

    different: "LinkSaid"
    chain: list["LinkSaid"]


class LinkSaid(BaseModel):
    """What was decided of two records."""

    id: int
    left_id: int
    right_id: int
    verdict: str
    at: datetime


class DecidedOut(DecisionOut):
    """A decision that was kept, and what it contradicts."""

    contradicts: list[ContradictionOut] = []


class ChangedOut(BaseModel):
    """A tidy value that is another than when a pair was decided, on the left or right side."""

    field: str
    side: str
    was: str
    now: str


class KindOut(BaseModel):
    """A kind of doubt, in words, and how many such doubts wait."""

    kind: str
    says: str
    waiting: int


class FieldLabel(BaseModel):
    """A field and its label."""

    name: str
    label: str


class RelatedValuesOut(BaseModel):
    """Values that records referring to the two bring: "E-mail of Contacts"."""

    label: str
    left: list[str]
    right: list[str]


class PairOut(BaseModel):
    """Two records face to face. ``lost_at`` says in words where records that no run brought together were lost ("" for a pair of the
    run); ``keys`` are blocking keys that both share, as far as that was looked for. ``proposed`` tells what waits for sign-off, or was sent
    back, "" where nothing does."""

    left: FacedRecordOut
    right: FacedRecordOut
    score: float
    probability: Annotated[float, Field(ge=0, le=1)] | None
    verdict: str
    reason: str
    evidence: list[EvidenceOut]
    same_from: float
    unsure_from: float
    fields: list[FieldLabel]
    decision: DecisionOut | None
    proposed: str = ""
    changed: list[ChangedOut]
    related: list[RelatedValuesOut] = []
    lost_at: str = ""
    keys: list[str] = []


class DecisionIn(BaseModel):
    """A decision to keep; ``seen_decision`` is the decision the pair had when it was shown, if any. A *later* may come back ``until`` a
    day, and ask somebody by name. ``desk`` is the window that decides."""

    left_id: Number
    right_id: Number
    verdict: Literal["same", "different", "later"]
    remark: Text = ""
    seen_decision: Number | None = None
    until: date | None = None
    asked: Person = ""
    desk: Desk = ""


class GroupIn(BaseModel):
    """A decision about groups of records: all the same (one group), those of different groups different, or later. ``cluster`` is the
    one of the queue that it is about, if any."""

    sides: Annotated[list[Records], Field(min_length=1, max_length=5000)]
    verdict: Literal["same", "different", "later"]
    remark: Text = ""
    until: date | None = None
    asked: Person = ""
    desk: Desk = ""
    cluster: Annotated[int, Field(ge=0, le=2**63 - 1)] = 0


class GroupOut(BaseModel):
    """A decision about groups of records."""

    id: int
    verdict: str
    remark: str
    actor: str
    at: datetime
    withdrawn_at: datetime | None
    contradicts: list[ContradictionOut] = []


class LeasesIn(BaseModel):
    """The doubts that a desk has before it, as (left, right): the one in view and the next ones; of a cluster both are its number."""

    doubts: Annotated[list[tuple[Number, Number]], Field(min_length=1, max_length=20)]
    desk: Annotated[Text, Field(min_length=1, max_length=80)]


class TakenOut(BaseModel):
    """A doubt that another desk has, and who is at it; "" for one that was decided meanwhile."""

    left_id: int
    right_id: int
    holder: str


class AlikeOut(BaseModel):
    """A doubt of a set of like ones."""

    left_id: int
    right_id: int
    score: float
    left_name: str
    right_name: str


class LikesOut(BaseModel):
    """All doubts like one: of one kind, with every comparison at the same level. ``seen`` names exactly this set."""

    kind: str
    says: str
    levels: list[tuple[str, str]]
    from_score: float
    to_score: float
    pairs: list[AlikeOut]
    sample: list[AlikeOut]
    seen: str


class ManyIn(BaseModel):
    """A verdict on all doubts like one, with a reason; ``seen`` names the set that was shown."""

    verdict: Literal["same", "different"]
    remark: Text
    seen: Annotated[Text, Field(min_length=1, max_length=80)]


class ManyOut(BaseModel):
    """A step that decided many: its entry in the journal, and how many pairs."""

    entry_id: int
    pairs: int


class AgreementOut(BaseModel):
    """How judgements of pairs that were looked at twice agree: Cohen's kappa with its margin at 95 %, None where it says nothing."""

    pairs: int
    equal: int
    kappa: float | None
    margin: float | None


class JudgementOut(BaseModel):
    """How a person's judgement agrees with itself and with that of others."""

    with_self: AgreementOut
    with_others: AgreementOut


class LookIn(BaseModel):
    """What a person says of a decided pair that is shown again."""

    left_id: Number
    right_id: Number
    verdict: Literal["same", "different"]


class DisagreementOut(BaseModel):
    """A standing decision and a second look that disagrees with it."""

    decision: DecisionOut
    actor: str
    verdict: str
    at: datetime


class ProgressOut(BaseModel):
    """What a person decided today, by verdict, under which name that is kept, and how many wait."""

    actor: str
    same: int
    different: int
    later: int
    waiting: int


class TakenBackOut(BaseModel):
    """What was taken back: a decision about a pair or a cluster, or many at once; two of the records that it was about."""

    what: Literal["pair", "cluster", "many"]
    verdict: str
    count: int
    left_id: int
    right_id: int


class NeighboursOut(BaseModel):
    """A value of one or both of two records, how many others hold it, and some of these."""

    field: str
    label: str
    value: str
    shared: bool
    others: int
    at_least: bool
    records: list[FacedRecordOut]


class ClusterLinkOut(BaseModel):
    """A link between two records of a cluster: whether it is one of the strongest that hold all together, and whether all hangs on it."""

    left_id: int
    right_id: int
    score: float | None
    same: bool
    decided: str
    reason: str
    holds: bool
    bridge: bool


class SaidOut(BaseModel):
    """A decision about a pair or about groups of records."""

    id: int
    is_group: bool
    verdict: str
    remark: str
    actor: str
    at: datetime
    withdrawn: bool
    sides: list[list[int]]


class ContextOut(BaseModel):
    """What stands around a pair: the other records of both clusters, what a *same* would make of the golden values, what was decided."""

    left_cluster: list[FacedRecordOut]
    right_cluster: list[FacedRecordOut]
    left_golden: dict[str, str]
    right_golden: dict[str, str]
    together: dict[str, str]
    left_key: str
    right_key: str
    said: list[SaidOut]


class ClusterOut(BaseModel):
    """A cluster as a table: records in an order in which close ones stand together, the golden values that come of them with their
    reasons by unit, links, decisions."""

    records: list[FacedRecordOut]
    golden_keys: dict[int, str]
    alike: list[list[int]]
    values: dict[str, str]
    says: dict[str, str]
    links: list[ClusterLinkOut]
    said: list[SaidOut]
    fields: list[FieldLabel]
