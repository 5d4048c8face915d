"""What every table has: how types of Python are stored."""

from datetime import datetime
from typing import Any, ClassVar

from sqlalchemy import (
    DateTime,
    Text,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase


class Base(DeclarativeBase):
    """Base of every table."""

    type_annotation_map: ClassVar[dict[Any, Any]] = {
        str: Text,
        dict[str, Any]: JSONB,
        list[str]: JSONB,
        list[float]: JSONB,
        datetime: DateTime(timezone=True),
    }
