"""Learning from decided pairs: which pairs to ask about, what the answers teach, and whether that holds on answers set aside."""

from .evidence_model import EvidenceView, Taught, teach
from .held_out import Difference, HeldOut, groups_of, held_out
from .learned_plan import LevelLesson, as_untaught, learned_plan, lessons_of
from .teaching_pairs import teaching_pairs

__all__ = [
    "Difference", "EvidenceView", "HeldOut", "LevelLesson", "Taught", "as_untaught", "groups_of", "held_out", "learned_plan",
    "lessons_of", "teach", "teaching_pairs",
]  # fmt: skip
