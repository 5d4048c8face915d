"""Migrations on a database with rows of an older version."""

import uuid
from typing import Any

import psycopg
import pytest
from psycopg.types.json import Jsonb
from sqlalchemy.exc import DataError

from idle_shimmer.settings import settings
from idle_shimmer.store.migrate import upgrade
from idle_shimmer.store.migrations import queue_schema
from tests.support.server import empty_database

FORMAT_1 = {
    "version": 1,
    "name": "Quay",
    "mix": {"kind": "dissolve", "shape": "ease-in"},
    "passes": [{"id": "fog", "kind": "vignette", "midpoint": 0.4}],
}
FORMAT_2 = {
    "format": 2,
    "name": "Quay",
    "mix": {"kind": "dissolve", "easing": "ease-in"},
    "filters": [{"id": "fog", "kind": "vignette", "radius": 0.4}],
}
FROM_THE_FUTURE = {"version": 9, "name": "Later"}


@pytest.fixture
def connection():
    """A connection to the test database as it was before format 2."""
    empty_database()
    address = settings().plain_database()
    with psycopg.connect(address, autocommit=True) as opened:
        opened.execute("DROP SCHEMA public CASCADE; CREATE SCHEMA public")
        upgrade("0008")
        yield opened
    empty_database()


def insert(connection: psycopg.Connection, table: str, **values: Any) -> None:
    names = ", ".join(values)
    marks = ", ".join(["%s"] * len(values))
    made = [Jsonb(each) if isinstance(each, dict | list) else each for each in values.values()]
    connection.execute(f"INSERT INTO {table} ({names}) VALUES ({marks})", made)


def insert_clip(connection: psycopg.Connection, number: uuid.UUID, **length: float) -> None:
    """A clip at 25 a second."""
    insert(
        connection,
        "clip",
        id=number,
        name="Quay",
        file=str(number),
        sha256=str(number),
        width=64,
        height=36,
        rate="25",
        has_sound=False,
        still=False,
        constant_rate=True,
        notes=[],
        **length,
    )


def test_stored_recipes_become_format_2_and_others_are_kept(connection) -> None:
    clip, edit, placed, cut = (uuid.uuid4() for _ in range(4))
    insert_clip(connection, clip, frame_count=50, duration_s=2.0)
    insert(connection, "edit", id=edit, name="Quay", width=64, height=36, rate="25")
    connection.execute(
        "INSERT INTO placed_clip (id, edit_id, clip_id, position, in_frame, out_frame)"
        " VALUES (%s, %s, %s, 0, 0, 25)",
        (placed, edit, clip),
    )
    insert(connection, "cut", id=cut, outgoing_id=placed, current=2, version=2)
    for number, recipe in enumerate((FORMAT_1, FROM_THE_FUTURE), start=1):
        document = {"before": 4, "after": 4, "recipe": recipe}
        insert(connection, "cut_revision", cut_id=cut, number=number, label="", document=document)
    insert(connection, "saved_recipe", id=uuid.uuid4(), name="Quay", document=FORMAT_1)
    upgrade()
    rows = connection.execute(
        "SELECT document, problem FROM cut_revision ORDER BY number"
    ).fetchall()
    assert rows[0] == ({"before": 4, "after": 4, "recipe": FORMAT_2}, None)
    assert rows[1][0]["recipe"] == FROM_THE_FUTURE
    assert "9" in rows[1][1]
    saved = connection.execute("SELECT document, problem FROM saved_recipe").fetchone()
    assert saved == (FORMAT_2, None)


def test_edits_made_by_detection_get_their_shots(connection) -> None:
    """In a clip at 25 a second, in edits at 25 and at 50; what was placed otherwise keeps the whole clip."""
    upgrade("0027")
    clip, plain = uuid.uuid4(), uuid.uuid4()
    for number in (clip, plain):
        insert_clip(connection, number, frame_count=60, duration_s=2.4)
    scores = [1.0 if n in (20, 40) else 0.3 if n == 30 else 0.0 for n in range(60)]
    insert(
        connection,
        "cut_detection",
        clip_id=clip,
        state="done",
        done_frames=60,
        total_frames=60,
        cancel_asked=False,
        message="",
        scores=scores,
    )
    for rate, factor in (("25", 1), ("50", 2)):
        edit = uuid.uuid4()
        insert(connection, "edit", id=edit, name=rate, width=64, height=36, rate=rate)
        shown = [(clip, 0, 20), (clip, 20, 30), (clip, 30, 40), (clip, 42, 60), (plain, 0, 20)]
        for position, (number, first, end) in enumerate(shown):
            insert(
                connection,
                "placed_clip",
                id=uuid.uuid4(),
                edit_id=edit,
                clip_id=number,
                position=position,
                in_frame=first * factor,
                out_frame=end * factor,
            )
    upgrade()
    for rate, factor in (("25", 1), ("50", 2)):
        rows = connection.execute(
            "SELECT shot FROM placed_clip JOIN edit ON edit.id = edit_id WHERE rate = %s"
            " ORDER BY position",
            (rate,),
        ).fetchall()
        wanted = [(0, 20), (20, 40), (20, 40), (40, 60)]
        assert [row[0] for row in rows] == [
            *([first * factor, end * factor - 1] for first, end in wanted),
            None,
        ]


def test_the_queue_has_the_newest_schema_of_the_installed_package() -> None:
    """Fails when the package is updated: then a migration of ours has to bring its new files."""
    assert queue_schema.shipped()[-1] == queue_schema.NEWEST


def test_making_the_queue_again_after_it_failed_gives_what_it_gives_at_once(monkeypatch) -> None:
    broken, read = queue_schema.shipped()[20], queue_schema.read_shipped

    def spoilt(name: str) -> str:
        return "SELECT 1 / 0;" if name == broken else read(name)

    empty_database()
    with psycopg.connect(settings().plain_database(), autocommit=True) as connection:
        whole = objects_of_queue(connection)
        connection.execute("DROP SCHEMA public CASCADE; CREATE SCHEMA public")
        with monkeypatch.context() as changed:
            changed.setattr(queue_schema, "read_shipped", spoilt)
            with pytest.raises(DataError):
                upgrade()
        assert objects_of_queue(connection) != whole
        upgrade()
        assert objects_of_queue(connection) == whole
    empty_database()


def objects_of_queue(connection: psycopg.Connection) -> list[tuple[Any, ...]]:
    return connection.execute(
        "SELECT relname, relkind::text FROM pg_class WHERE relname LIKE 'procrastinate%'"
        " UNION SELECT oid::regprocedure::text, md5(prosrc) FROM pg_proc WHERE proname LIKE 'procrastinate%'"
        " UNION SELECT enumlabel, enumtypid::regtype::text FROM pg_enum"
        " ORDER BY 1, 2"
    ).fetchall()
