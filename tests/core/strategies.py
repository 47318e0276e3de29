"""Generators of values for property tests."""

from hypothesis import strategies as st

from oddpair.core.records import RecordSet, RecordSetBuilder

words = st.sampled_from(
    "skua tern rope works sail loft marine boatyard hansen petersen pedersen bakke harbour quay street north depot ltd gmbh 2 7".split()
)
phrases = st.lists(words, min_size=0, max_size=4).map(" ".join)
any_text = st.text(max_size=40)
ascii_words = st.text(alphabet="abcdefgh", max_size=12)


def row(draw_name: st.SearchStrategy[str] = phrases) -> st.SearchStrategy[dict[str, str]]:
    """One delivered record with the fields of an organisation, any of them missing."""
    return st.fixed_dictionaries(
        {},
        optional={
            "name": draw_name,
            "address.line": st.sampled_from(["14 Harbour St", "14 Harbour Street", "15 Harbour Street", "Havnegata 3"]),
            "address.city": st.sampled_from(["Whitby", "Bergen", "WHITBY"]),
            "address.postcode": st.sampled_from(["YO21 1AA", "5003", "YO211AA"]),
            "phone": st.sampled_from(["01632 960001", "+44 1632 960001", "01632 960002"]),
            "email": st.sampled_from(["info@tern.example", "INFO@tern.example", "x@skua.example"]),
            "tax_number": st.sampled_from(["GB980780684", "980780684", "123"]),
            "updated_on": st.sampled_from(["2024-05-06", "2019-01-02", "06.05.2024"]),
        },
    )


def records(rows: list[tuple[str, str, dict[str, str]]]) -> RecordSet:
    """Build records from (source, id, fields)."""
    builder = RecordSetBuilder()
    for source, record_id, fields in rows:
        builder.add(source, record_id, fields)
    return builder.build()


@st.composite
def record_sets(draw: st.DrawFn, most: int = 12) -> list[tuple[str, str, dict[str, str]]]:
    """Rows of up to ``most`` records over two sources, with distinct ids."""
    rows = draw(st.lists(st.tuples(st.sampled_from(["till", "webshop"]), row()), min_size=1, max_size=most))
    return [(source, f"{number:03d}", fields) for number, (source, fields) in enumerate(rows)]


#: Chains of survivorship rules that take any unit.
chains = st.lists(
    st.sampled_from(
        [
            "consensus", "source rank", "newest", "most common", "longest", "most complete", "valid", "largest", "smallest",
            "first delivered", {"by": "source rank", "sources": ["till"]}, {"by": "newest", "field": "updated_on"},
            {"by": "where", "field": "address.city", "values": ["whitby"]},
        ]
    ),
    min_size=1, max_size=3,
)  # fmt: skip
