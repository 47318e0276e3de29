"""What all tables have in common."""

from datetime import datetime
from typing import Any

from sqlalchemy import DateTime, MetaData, Text, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase


class Base(DeclarativeBase):
    """Base of all tables, with predictable names of constraints."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_N_label)s", "uq": "uq_%(table_name)s_%(column_0_N_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s", "pk": "pk_%(table_name)s",
        }
    )  # fmt: skip
    type_annotation_map = {
        dict[str, Any]: JSONB,
        list[dict[str, str]]: JSONB,
        list[dict[str, Any]]: JSONB,
        datetime: DateTime(timezone=True),
        str: Text,
    }


NOW = text("now()")
