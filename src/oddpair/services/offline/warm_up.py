"""Compiles the kernels by a tiny run of each kind; compiled code is kept on disk."""

from ...core import pipeline
from ...core.fields import RegisterKind
from ...core.plan import default_plan
from ...core.records import RecordSetBuilder

_ROWS: dict[RegisterKind, dict[str, str]] = {
    RegisterKind.ORGANISATION: {
        "name": "Tern Boatyard Ltd", "address.line": "1 Quay Road", "address.city": "Whitby", "phone": "01632 960001",
        "email": "info@tern-boatyard.example", "web_site": "www.tern-boatyard.example", "tax_number": "GB980780684",
    },
    RegisterKind.PERSON: {
        "name": "Ingrid Bakke", "address.line": "Havnegata 1", "address.city": "Bergen", "phone": "+47 55 00 00 01",
        "email": "ingrid.bakke@postbox.example", "birth_date": "1970-01-02", "boat": "Nordlys",
    },
}  # fmt: skip


def warm_up() -> None:
    """Run each default plan on three records."""
    for kind, row in _ROWS.items():
        builder = RecordSetBuilder()
        for number in range(3):
            builder.add("warm-up", str(number), {**row, "name": row["name"] + (" Services" if number == 2 else "")})
        pipeline.run(builder.build(), default_plan(kind))
