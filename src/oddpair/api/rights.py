"""Which permission each address of the API takes, and the check that stands before all of them.

An address that is not named here is refused, and the application does not start: nothing is open by being forgotten.
"""

from collections.abc import Iterable, Mapping
from typing import Any

from fastapi import Request
from fastapi.routing import APIRoute
from starlette.routing import BaseRoute

from ..core.errors import NotAllowed, NotFound
from ..core.rights import PERMISSIONS, Permission, may, who_may
from ..services.people import who as rights
from ..services.people.personal import anything_personal, hidden_from
from ..services.people.who import Who
from ..services.people.whose import ID_OF, slug_of
from ..services.transactions import transaction
from .dependencies import state, who_asks
from .masking import HIDDEN

#: Answered without anybody being signed in.
OPEN = frozenset(
    "docs_page.page health.get_health sign_in.who_am_i sign_in.sign_in sign_in.sign_out sign_in.welcome "
    "sign_in.choose_password sign_in.as_demo_person sign_in.to_provider sign_in.from_provider".split()
)
#: A person's own: whoever is signed in may.
OWN = frozenset(
    "account.list_browsers account.end_browser account.end_other_browsers account.change_password account.list_tokens account.make_token "
    "account.end_token review.leave_desk".split()
)


def _by_address(names: Mapping[Permission, str]) -> Mapping[str, Permission]:
    """Return address → permission from the addresses that take each permission, parted by spaces."""
    return {name: permission for permission, of_it in names.items() for name in of_it.split()}


#: Of what every register holds: answered for those registers in which somebody has the permission.
ANYWHERE = _by_address({
    Permission.KNOW: "registers.list_registers today.get_today jobs.list_jobs jobs.events",
    Permission.SEE: """schedules.held_turns word_tables.list_tables word_tables.get_table word_tables.export_table word_tables.get_usage
        tidying.build_pattern""",
    Permission.BRING_IN: "queries.try_query",
})  # fmt: skip
#: Of what all registers share: it takes the role in every register.
EVERYWHERE = _by_address({
    Permission.SEE: "journal.get_shared_journal",
    Permission.SET_UP: "registers.make_register",
    Permission.TIDY: "word_tables.make_table word_tables.save_table word_tables.import_table",
    Permission.GOVERN: """people.list_people people.add_person people.change_person people.end_person people.reset_person
        people.keys_of_person people.sign_out_person people.end_token_of_person""",
})  # fmt: skip
IN_REGISTER = _by_address({
    Permission.KNOW: """registers.get_register registers.get_personal registers.get_layout registers.list_sources jobs.get_job""",
    Permission.LOOK_UP: """look_up.look_up reconcile.manifest reconcile.ask reconcile.suggest_entity reconcile.suggest_property
        reconcile.suggest_type reconcile.propose_properties reconcile.preview by_key.get_key entering.look_before_entering
        entering.list_checks entering.get_reference entering.ask_reference golden.list_golden golden.get_golden golden.golden_then
        views.saved_views""",
    Permission.ENTER: "entering.enter entering.get_entry",
    Permission.SEE: """deliveries.list_deliveries deliveries.get_preview deliveries.try_mapping deliveries.preview_take_back
        rejected.list_rejected rejected.download_rejected standing.get_recognition standing.delivery_outcomes
        standing.records_of_outcome schedules.list_schedules schedules.list_turns events.list_receivers entering.try_check
        records.list_records profile.get_profile profile.ask_for_profile profile.get_draft_profile quality.get_quality
        quality.values_of quality.list_corrections references.get_references tidying.get_tidy_steps tidying.try_steps
        plans.get_plan plans.estimate_plan plans.get_run plans.list_runs plan_drafts.list_drafts plan_drafts.check_plan
        plan_drafts.plan_words plan_drafts.ready_made plan_drafts.propose plan_drafts.difference plan_drafts.plan_version
        bench.get_bench bench.settle bench.cancel bench.try_plan bench.border_pairs bench.changed_clusters
        bench_measure.measure_plan bench_measure.sample_pairs bench_measure.outside_pairs bench_measure.teaching_pairs
        bench_measure.look_at_pair bench_measure.largest_blocks
        review.get_queue review.get_kinds review.get_progress review.get_people review.get_pair review.get_neighbours
        review.get_context review.list_decisions review.get_contradictions review.get_likes review.get_agreement
        review.get_disagreements watch.get_watch
        work_given.list_work clusters.cluster_of_record clusters.get_cluster clusters.golden_of_groups
        counterparts.list_lists counterparts.get_list counterparts.list_rows counterparts.list_unmatched_golden
        findings.list_plans findings.get_findings_plan findings.list_findings bridge.get_bridge bridge.count_bridge
        golden.preview_merge rules.try_rules rules.rules_tried rules.earlier_rules views.saved_queues send_out.saved_send_outs
        journal.get_journal journal.get_choices journal.download_journal journal.get_entry_of_journal
        journal.verify_journal journal.get_why
        sign_off.get_policy sign_off.list_proposals sign_off.get_proposal sign_off.get_many""",
    Permission.DECIDE: """review.take_leases review.post_decision review.withdraw review.take_back_mine review.decide_likes
        review.withdraw_many work_given.give_work work_given.change_work
        work_given.end_work work_given.hand_over review.draw_second_look review.look_again clusters.decide_group clusters.withdraw_group
        golden.start_merge golden.split journal.undo""",
    Permission.CORRECT: "golden.pin golden.lift_pin quality.correct quality.undo references.link rejected.mend_row",
    Permission.PAIR_UP: """counterparts.make_list counterparts.change_list counterparts.forget_list counterparts.replace_file
        counterparts.run_list counterparts.say counterparts.take_back findings.make_plan findings.change_findings_plan
        findings.forget_findings_plan findings.run_findings_plan findings.say_of_finding""",
    Permission.BRING_IN: """deliveries.upload deliveries.discard deliveries.read_again deliveries.load
        deliveries.take_back_or_put_back queries.bring_in_query queries.query_again schedules.answer_turn""",
    Permission.TIDY: "tidying.save_tidy_steps quality.save_rules",
    Permission.PLAN: "plans.save_plan",
    Permission.TRY: """plan_drafts.make_draft plan_drafts.keep_draft plan_drafts.throw_draft_away
        bench_measure.draw_sample bench_measure.look_outside bench_measure.learn bench_measure.unlearn""",
    Permission.RUN: """plans.start_run plans.start_trial plans.clear_run tidying.recount references.resolve_again
        standing.recognise_now jobs.cancel""",
    Permission.RULE: "rules.change_rules rules.put_back registers.choose_value_field",
    Permission.SEND_OUT: """send_out.download counterparts.download findings.report bridge.download_bridge by_key.crosswalk
        events.events send_out.run_send_out""",
    Permission.KEEP: """views.save_view views.forget_view views.save_queue views.forget_queue send_out.save_send_out
        send_out.forget_send_out""",
    Permission.AUTOMATE: """registers.change_source standing.set_recognition schedules.set_schedule schedules.take_turn_now
        events.add_receiver events.set_receiver events.remove_receiver events.tell_again entering.put_check_in_force
        entering.remove_check entering.set_reference""",
    Permission.SET_UP: "registers.change_layout",
    Permission.FORGET: "forgetting.find_person forgetting.forget_person",
    Permission.PROPOSE: "sign_off.withdraw_proposal sign_off.propose_again",
    Permission.SIGN_OFF: "sign_off.sign sign_off.send_back sign_off.sign_many",
    Permission.GOVERN: "sign_off.put_policy registers.put_personal",
})  # fmt: skip
_NAMED = (OPEN, OWN, ANYWHERE, EVERYWHERE, IN_REGISTER)


def name_of(route: APIRoute) -> str:
    """Return under which name the table holds an address: the module and the function that answers."""
    return f"{route.endpoint.__module__.rpartition('.')[2]}.{route.endpoint.__name__}"


#: Answers that are nothing but values: they are not given where values are hidden.
_NOTHING_BUT_VALUES = frozenset(
    "deliveries.get_preview profile.get_draft_profile rejected.list_rejected rejected.download_rejected counterparts.download "
    "findings.list_findings findings.report journal.download_journal forgetting.find_person quality.values_of tidying.try_steps "
    "bench_measure.largest_blocks reconcile.ask reconcile.suggest_entity reconcile.preview deliveries.try_mapping".split()
)
#: Answers that tell of fields, plans and rules, and of no record.
_NO_VALUES = frozenset(
    "registers.list_registers registers.get_register registers.get_personal registers.get_layout registers.list_sources plans.get_plan "
    "plan_drafts.list_drafts plan_drafts.check_plan plan_drafts.plan_words plan_drafts.ready_made plan_drafts.propose "
    "plan_drafts.difference plan_drafts.plan_version tidying.get_tidy_steps quality.get_quality sign_off.get_policy entering.list_checks "
    "views.saved_views views.saved_queues send_out.saved_send_outs rules.earlier_rules word_tables.get_table".split()
)


def check_rights(request: Request) -> None:
    """Refuse what nobody here, or this person, may do; keep who asks, and what is hidden from them, for those who answer."""
    name = name_of(request.scope["route"])
    if name in OPEN:
        return
    who = request.state.who = who_asks(request)
    if name in OWN:
        return
    if name in ANYWHERE:
        rights.check_anywhere(who, ANYWHERE[name])
        _hide(request, who, "", name)
    elif name in EVERYWHERE:
        rights.check_everywhere(who, EVERYWHERE[name])
    elif name in IN_REGISTER:
        slug = _register_of(request)
        rights.check(who, IN_REGISTER[name], [slug])
        _hide(request, who, slug, name)
    else:
        raise NotAllowed(f"Nobody may ask {request.url.path}.")


def _hide(request: Request, who: Who, slug: str, name: str) -> None:
    """Keep what is hidden from somebody; refuse what would be nothing else."""
    if name in _NO_VALUES or may(who.roles(slug) if slug else who.everywhere, Permission.PERSONAL):
        return
    # Asked alone first: it costs a quarter of a session, and nearly always there is nothing to hide.
    if not state(request).quick.ask(lambda connection: anything_personal(connection, slug)):
        return
    with transaction(state(request).sessions) as session:
        hidden = hidden_from(session, who, slug)
    if hidden is None:
        return
    if name in _NOTHING_BUT_VALUES:
        raise NotAllowed(
            f"Only {who_may(Permission.PERSONAL)} may {PERMISSIONS[Permission.PERSONAL]}, and this is nothing else."
        )
    setattr(request.state, HIDDEN, hidden)


def _register_of(request: Request) -> str:
    """Return the register that an address is about; raise NotFound where it names something of another one."""
    given: Mapping[str, Any] = request.path_params
    slug: str | None = given.get("slug")
    for name in given.keys() & ID_OF.keys():
        with transaction(state(request).sessions) as session:
            own = slug_of(session, name, given[name])
        if slug is not None and own != slug:
            raise NotFound(ID_OF[name], given[name])
        slug = own
    assert slug is not None, f"{request.url.path} names no register"
    return slug


def check_table(routes: Iterable[BaseRoute]) -> None:
    """Raise an error unless every address is in the table, once."""
    names = {name_of(route) for route in routes if isinstance(route, APIRoute)}
    wrong = [name for name in names if sum(name in table for table in _NAMED) != 1]
    if wrong:
        raise ValueError(f"not once in the table of rights: {', '.join(sorted(wrong))}")
