"""How each act that may need a second yes is done once it was given."""

from collections.abc import Callable, Mapping
from datetime import date
from typing import Any

from sqlalchemy.orm import Session

from ...core.rights import Permission
from ..bring_in.ask_to_change import PUT_BACK, TAKE_BACK, ask_to_change
from ..forgetting.forget import FORGET, ask_to_forget
from ..golden import edits, merge, rules, undo
from ..golden.large_groups import MERGE_GROUP
from ..match import plans
from ..proposals.policy import POLICY, set_policy
from ..registers import registers
from ..review import bulk, decide, groups
from ..standing import switch
from ..state.bring_up_to_date import RECOGNISE
from ..tidy import corrections, quality, references, tidy_steps, word_tables

#: An act: in a session, of a register, with the arguments that were proposed, by the person who proposed it.
Act = Callable[[Session, str, Mapping[str, Any], str], object]


def _own(use_case: Callable[..., object]) -> Act:
    """Return an act that is a use case of a register."""
    return lambda session, slug, arguments, actor: use_case(session, slug, **arguments, actor=actor)


def _deciding(use_case: Callable[..., object]) -> Act:
    """Return an act that decides, perhaps until a day."""

    def act(session: Session, slug: str, arguments: Mapping[str, Any], actor: str) -> object:
        until = arguments.get("until")
        return use_case(
            session, slug, **{**arguments, "until": date.fromisoformat(until) if until else None}, actor=actor
        )

    return act


def _numbered(use_case: Callable[..., object]) -> Act:
    """Return an act that is a use case of a numbered thing."""
    return lambda session, slug, arguments, actor: use_case(session, **arguments, actor=actor)


def _change_delivery(change: str) -> Act:
    return lambda session, slug, arguments, actor: ask_to_change(
        session, slug, arguments["delivery_id"], change, actor=actor
    )


ACTS: Mapping[str, Act] = {
    "decide": _deciding(decide.decide), "withdraw": _numbered(decide.withdraw), "decide many": _own(bulk.decide_like),
    "withdraw many": _numbered(bulk.take_back_many), "decide group": _deciding(groups.decide_records),
    "withdraw group": _numbered(groups.withdraw_group), "merge": _own(merge.ask_to_merge), MERGE_GROUP: _own(merge.merge_group),
    "split": _own(edits.split), "pin": _own(edits.pin), "lift": _own(edits.lift_pin), "undo": _numbered(undo.undo_step),
    "correct": _own(corrections.correct_records), "undo correction": _own(corrections.undo), "link": _own(references.link),
    TAKE_BACK: _change_delivery(TAKE_BACK), PUT_BACK: _change_delivery(PUT_BACK), "plan": _own(plans.save_plan),
    "rules": _own(rules.change_rules), "put rules back": _own(rules.put_rules_back), "tidy steps": _own(tidy_steps.save_tidy_steps),
    "quality": _own(quality.save_rules), POLICY: _own(set_policy),
    FORGET: _own(ask_to_forget), "source": _own(registers.change_source), "layout": _own(registers.change_layout),
    RECOGNISE: _own(switch.switch_recognition), switch.RECOGNISABLE: _own(switch.choose_recognisable),
    switch.ORPHANS: _own(switch.choose_parents), word_tables.TABLE: _numbered(word_tables.save_table),
}  # fmt: skip
#: Which permission each takes, where it is not to decide.
_PERMISSIONS = {
    "pin": Permission.CORRECT, "lift": Permission.CORRECT, "correct": Permission.CORRECT, "undo correction": Permission.CORRECT,
    "link": Permission.CORRECT, TAKE_BACK: Permission.BRING_IN, PUT_BACK: Permission.BRING_IN, "plan": Permission.PLAN,
    "rules": Permission.RULE, "put rules back": Permission.RULE, "tidy steps": Permission.TIDY, "quality": Permission.TIDY,
    POLICY: Permission.GOVERN, FORGET: Permission.FORGET, "source": Permission.AUTOMATE,
    "layout": Permission.SET_UP, RECOGNISE: Permission.AUTOMATE, switch.RECOGNISABLE: Permission.AUTOMATE,
    switch.ORPHANS: Permission.AUTOMATE, word_tables.TABLE: Permission.TIDY,
}  # fmt: skip
#: What rests on settings, or on all that was done, and not on what it touches alone.
OF_ALL = frozenset(
    {"source", "layout", word_tables.TABLE, "merge", "plan", "rules", "put rules back", "tidy steps", "quality", POLICY}
)
#: What takes long to try: whether it can still be carried out is found out when somebody signs it.
SLOW = frozenset({"decide many", "withdraw many", "correct", "undo correction", "undo", MERGE_GROUP})


def permission_for(act: str) -> Permission:
    """Return which permission an act takes."""
    return _PERMISSIONS.get(act, Permission.DECIDE)
