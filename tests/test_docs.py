"""What the documents say must be so."""

import re
from pathlib import Path

from oddpair.cli.app import app
from oddpair.core.blocking.takers import TAKERS
from oddpair.core.compare import COMPARISONS
from oddpair.core.fields import Field, FieldKind, Layout, RegisterKind, default_layout
from oddpair.core.findings import parse_findings_plan
from oddpair.core.plan import Scope, parse_plan
from oddpair.core.plan.text import default_plan_text
from oddpair.core.profiling import ODDITIES, RULE_KINDS
from oddpair.core.rights import MAY, PERMISSIONS, ROLES, Permission, Role
from oddpair.core.survivorship import RULES
from oddpair.core.tidying.steps import STEP_KINDS
from oddpair.settings import Settings
from tests.there import there

ROOT = Path(__file__).parents[1]


def document(name: str) -> str:
    return (ROOT / "docs" / name).read_text(encoding="utf-8")


def test_every_setting_and_command_is_documented() -> None:
    text = document("operating.md")
    for name, field in Settings.model_fields.items():
        assert f"`ODD_PAIR_{name.upper()}`" in text
        assert there(field.description) in text
    for command in app.registered_commands:
        assert command.hidden or f"odd-pair {command.name}" in text


def test_every_comparison_level_key_part_and_rule_is_documented() -> None:
    text = document("matching.md")
    for item in COMPARISONS.values():
        assert f"`{item.name}`" in text
        for level in item.levels[1:]:
            assert level in text
    for taker in TAKERS:
        assert f"`{taker}`" in text
    for rule in RULES:
        assert rule in document("golden-records.md")


def test_who_may_do_what_is_documented_as_it_is() -> None:
    text = document("people.md")
    for role in Role:
        assert f"| {role} | {ROLES[role]} |" in text
    for act in Permission:
        row = " | ".join("yes" if role in MAY[act] else "" for role in Role)
        assert f"| {PERMISSIONS[act]} | {row} |" in text


def test_every_step_rule_and_kind_of_field_is_documented() -> None:
    tidying = document("tidying.md")
    for name in (*STEP_KINDS, *RULE_KINDS):
        assert f"| `{name}` |" in tidying
    for name in ODDITIES:
        assert name in tidying
    for kind in FieldKind:
        assert kind.value in " ".join(document("bringing-in.md").split())


def test_links_of_the_documents_lead_somewhere() -> None:
    for path in [ROOT / "README.md", *(ROOT / "docs").rglob("*.md")]:
        for target in re.findall(r"\]\(([^)#:]+)\)", path.read_text(encoding="utf-8")):
            assert (path.parent / target).exists(), f"{path.name} links to {target}"


def test_examples_of_ways_to_match_are_read_as_they_stand() -> None:
    text = document("ways-to-match.md")
    blocks = re.findall(r"```yaml\n(.*?)```", text, re.DOTALL)
    number = Field("registration", FieldKind.IDENTIFIER, "Registration")
    account = Field("bank_account", FieldKind.IDENTIFIER, "Bank account")
    layouts = [default_layout(kind) for kind in (RegisterKind.ORGANISATION, RegisterKind.PERSON)]
    firms, staff = (Layout(layout.kind, (*layout.fields, number, account)) for layout in layouts)
    usual = default_plan_text(RegisterKind.ORGANISATION)
    passes, related, findings = blocks
    assert [one.works_on for one in parse_plan(f"{usual}\n{passes}", firms).passes] == [
        "everything",
        "unmatched",
        "ambiguous",
    ]
    assert parse_plan(f"{usual}\n{related}", firms).related[0].take == {"email": "email", "phone": "phone"}
    assert len(parse_findings_plan(findings, firms, staff).shared) == 4
    for key in re.findall(r"^\| `(.*?)`", text, re.MULTILINE):
        for part in re.split(r"`, `", key):
            written = part.replace("{...}", "{address.country: [NO]}")
            assert parse_plan(f"{usual}\nscope: {{{written}}}\n", firms).scope != Scope()
