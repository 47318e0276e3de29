"""Learning from decided pairs: which pairs to ask about, what the answers teach, and whether that holds on answers set aside."""

from .conditions import ConditionLesson, condition_lessons, condition_pairs
from .course import Course, JudgedPairs, learn_from, next_pairs
from .evidence_model import EvidenceView, Taught, teach
from .held_out import Difference, HeldOut, groups_of, held_out
from .learned_plan import LevelLesson, as_untaught, learned_plan, lessons_of
from .teaching_pairs import teaching_pairs

__all__ = [
    "ConditionLesson", "Course", "Difference", "EvidenceView", "HeldOut", "JudgedPairs", "LevelLesson", "Taught", "as_untaught",
    "condition_lessons", "condition_pairs", "groups_of", "held_out", "learn_from", "learned_plan", "lessons_of", "next_pairs", "teach",
    "teaching_pairs",
]  # fmt: skip
