"""The tables.

Deliveries, versions of records and the journal are only ever added to. Everything else is a projection of them: what records,
decisions, golden records, doubts and counters are now can be computed again and compared (services/state/rebuild.py). Bulk
tables have no foreign keys: their rows are made from rows read in the same statement and are never deleted, and a foreign key
would lock every row it looks up (docs/decisions/0007).
"""

from .base import Base
from .bench import BenchSample, BenchSamplePair
from .counterparts import CounterpartCandidate, CounterpartList, CounterpartRow, CounterpartVerdict
from .deliveries import (
    Delivery,
    DeliveryOutcome,
    DeliveryRecord,
    ErasedKey,
    RecordVersion,
    RecordWords,
    RejectedRow,
    SourceRecord,
)
from .desk import Decision, Doubt, GroupDecision, GroupMember, Lease, PieceOfWork, SecondLook
from .entries import Check, Entry
from .events import Event, NotedEvent, Receiver
from .findings import Finding, FindingPlanRow, FindingVerdict
from .golden import GoldenMember, GoldenRecord, GoldenVersion, GoldenWords, Pin, Saved
from .journal import JournalEntry, JournalTouch, Move
from .matching import AwkwardCluster, Run, RunCluster, RunPair
from .people import AccessToken, Guesses, KnownBrowser, OneTimeLink, Person, RoleGiven, SignedIn
from .registers import Counters, Plan, PlanDraft, Register, Source
from .sign_off import Proposal, ProposalPair, Signature
from .standing import Schedule, Turn
from .tidying import Correction, Profile, RecordReference, RuleResult, TidyStepsVersion, WordTableVersion
from .work import Job

__all__ = [
    "AccessToken",
    "AwkwardCluster",
    "Base",
    "BenchSample",
    "BenchSamplePair",
    "Check",
    "Correction",
    "CounterpartCandidate",
    "CounterpartList",
    "CounterpartRow",
    "CounterpartVerdict",
    "Counters",
    "Decision",
    "Delivery",
    "DeliveryOutcome",
    "DeliveryRecord",
    "Doubt",
    "Entry",
    "ErasedKey",
    "Event",
    "Finding",
    "FindingPlanRow",
    "FindingVerdict",
    "GoldenMember",
    "GoldenRecord",
    "GoldenVersion",
    "GoldenWords",
    "GroupDecision",
    "GroupMember",
    "Guesses",
    "Job",
    "JournalEntry",
    "JournalTouch",
    "KnownBrowser",
    "Lease",
    "Move",
    "NotedEvent",
    "OneTimeLink",
    "Person",
    "PieceOfWork",
    "Pin",
    "Plan",
    "PlanDraft",
    "Profile",
    "Proposal",
    "ProposalPair",
    "Receiver",
    "RecordReference",
    "RecordVersion",
    "RecordWords",
    "Register",
    "RejectedRow",
    "RoleGiven",
    "RuleResult",
    "Run",
    "RunCluster",
    "RunPair",
    "Saved",
    "Schedule",
    "SecondLook",
    "Signature",
    "SignedIn",
    "Source",
    "SourceRecord",
    "TidyStepsVersion",
    "Turn",
    "WordTableVersion",
]
