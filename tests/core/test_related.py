from random import Random

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.pipeline import run
from oddpair.core.plan import default_plan
from oddpair.core.related import with_related
from oddpair.core.tidying import tidy_records

from .strategies import record_sets, records

mails = st.sampled_from(["ann@tern.example", "bo@skua.example", "info@tern.example", "x@skua.example"])


@given(
    record_sets(most=6), st.lists(st.tuples(st.integers(0, 5), mails), max_size=12), st.randoms(use_true_random=False)
)
def test_values_stand_behind_the_own_ones_whatever_their_order(rows: list, more: list, random: Random) -> None:
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), records(rows))
    values = [(n, "email", {"email": mail, "email.domain": mail.split("@")[1]}) for n, mail in more if n < len(tidy)]
    together = with_related(tidy, values)
    random.shuffle(values)
    turned = with_related(tidy, values)
    for record in range(len(tidy)):
        own = tidy.row(record)
        row = together.row(record)
        assert row == turned.row(record)
        assert {name: row[name] for name in own} == own
        held = {value for name, value in row.items() if name.partition("#")[0] == "email"}
        told = {mail for n, mail in more if n == record}
        assert held == told | {value for name, value in own.items() if name.partition("#")[0] == "email"}
    for column in together.columns.values():
        first = [int(np.flatnonzero(column.codes == code)[0]) for code in range(len(column.values))]
        assert first == sorted(first)


def test_organisations_are_compared_by_the_mails_of_their_contacts() -> None:
    bystanders = [
        ("till", f"x{n}", {"name": f"Bystander{n} Number{n}", "email": f"b{n}@other{n}.example"}) for n in range(60)
    ]
    rows = [
        ("till", "a", {"name": "Kestrel Rope Walk"}),
        ("webshop", "b", {"name": "K.R.W. Ropes", "email": "ann@kestrel.example"}),
    ]
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), records(rows + bystanders))
    a, b = tidy.ids.index("a"), tidy.ids.index("b")
    related = with_related(tidy, [(a, "email", {"email": "ann@kestrel.example", "email.domain": "kestrel.example"})])
    plan = default_plan(RegisterKind.ORGANISATION)
    before, after = (run(each, plan, are_tidy=True).pairs for each in (tidy, related))

    def bits(pairs: object) -> float:
        found = np.flatnonzero((pairs.left == min(a, b)) & (pairs.right == max(a, b)))  # type: ignore[attr-defined]
        return float(pairs.scored.bits[found[0]]) if len(found) else -99.0  # type: ignore[attr-defined]

    assert bits(after) > bits(before) + 5
