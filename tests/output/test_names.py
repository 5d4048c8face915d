"""File names by a pattern."""

import pytest

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.output.names import distinct, named

FIELDS = {"edit": "Harbour", "cut": "02"}


@pytest.mark.parametrize(
    ("pattern", "name"),
    [
        ("{edit} cut {cut}", "Harbour cut 02"),
        ("final", "final"),
        ("{edit}: day/night?", "Harbour_ day_night_"),
        ("  {edit}   {cut}. ", "Harbour 02"),
        ("...", "render"),
        ("ä" * 150, "ä" * 100),
    ],
)
def test_a_pattern_becomes_a_name_that_every_disk_takes(pattern: str, name: str) -> None:
    assert named(pattern, dict(FIELDS)) == name


def test_braces_in_a_name_are_no_fields() -> None:
    assert named("{edit} {cut}", {"edit": "{cut} {x}", "cut": "02"}) == "{cut} {x} 02"


@pytest.mark.parametrize("pattern", ["{artist}", "{", "{edit", "{}", "x" * 300])
def test_a_wrong_pattern_is_refused(pattern: str) -> None:
    with pytest.raises(InvalidValue) as caught:
        named(pattern, dict(FIELDS))
    assert caught.value.field == "name"


def test_the_same_name_twice_is_numbered() -> None:
    assert distinct(["a", "A", "b", "a"]) == ["a", "A (2)", "b", "a (3)"]
