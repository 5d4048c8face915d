"""Stored recipes in format 2; documents that cannot be converted are kept, with the reason."""

from collections.abc import Callable
from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from idle_shimmer.core.conversion import to_newest_format
from idle_shimmer.core.errors import RecipeError

revision = "0009"
down_revision = "0008"

Document = Any
Convert = Callable[[Document], tuple[Document, str | None]]


def upgrade() -> None:
    """Convert revisions, variants, saved recipes, the history of edits and renders."""
    for table in ("cut_revision", "cut_variant", "saved_recipe"):
        op.add_column(table, sa.Column("problem", sa.Text, nullable=True))
    _convert_rows("cut_revision", ("cut_id", "number"), "document", _cut, with_problem=True)
    _convert_rows("cut_variant", ("id",), "document", _cut, with_problem=True)
    _convert_rows("saved_recipe", ("id",), "document", _recipe, with_problem=True)
    _convert_rows("arranging_step", ("id",), "before", _history_step)
    _convert_rows("render", ("id",), "snapshot", _snapshot)


def _convert_rows(
    name: str, keys: tuple[str, ...], column: str, convert: Convert, *, with_problem: bool = False
) -> None:
    table = sa.table(
        name, *(sa.column(key) for key in keys), sa.column(column, JSONB), sa.column("problem")
    )
    connection = op.get_bind()
    rows = connection.execute(sa.select(*(table.c[key] for key in keys), table.c[column]))
    for row in rows.all():
        *values, document = row
        converted, problem = convert(document)
        if converted == document and problem is None:
            continue
        changes = {column: converted, **({"problem": problem} if with_problem else {})}
        is_row = sa.and_(*(table.c[k] == v for k, v in zip(keys, values, strict=True)))
        connection.execute(sa.update(table).where(is_row).values(changes))


def _recipe(document: Document) -> tuple[Document, str | None]:
    if not isinstance(document, dict):
        return document, "The recipe is not a JSON object"
    try:
        return to_newest_format(document), None
    except RecipeError as error:
        return document, error.messages()


def _cut(document: Document) -> tuple[Document, str | None]:
    """Convert ``{"before", "after", "recipe"}``."""
    if not isinstance(document, dict):
        return document, "The cut is not a JSON object"
    if "recipe" not in document:
        return document, None
    recipe, problem = _recipe(document["recipe"])
    return {**document, "recipe": recipe}, problem


def _history_step(document: Document) -> tuple[Document, str | None]:
    """Convert the cuts of ``{"placed": [{"cut"}]}``."""
    if not isinstance(document, dict) or not isinstance(document.get("placed"), list):
        return document, None
    placed = [
        {**each, "cut": _cut(each["cut"])[0]}
        if isinstance(each, dict) and isinstance(each.get("cut"), dict)
        else each
        for each in document["placed"]
    ]
    return {**document, "placed": placed}, None


def _snapshot(document: Document) -> tuple[Document, str | None]:
    """Convert ``{"cuts": [{"before", "after", "recipe"}]}``."""
    if not isinstance(document, dict) or not isinstance(document.get("cuts"), list):
        return document, None
    return {**document, "cuts": [_cut(each)[0] for each in document["cuts"]]}, None
