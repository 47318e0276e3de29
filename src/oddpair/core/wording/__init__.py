"""What lists write differently as a habit: words that one writes short or in another language, learned from likely pairs."""

from .habits import Rewording, WordHabit, best_of_both, find_word_habits, habits_document, reworded, reworded_fields

__all__ = [
    "Rewording", "WordHabit", "best_of_both", "find_word_habits", "habits_document", "reworded", "reworded_fields",
]  # fmt: skip
