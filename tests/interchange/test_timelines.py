"""Edits through OpenTimelineIO's own readers and writers, and back."""

from fractions import Fraction

import opentimelineio as otio
import pytest

from idle_shimmer.book import book
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.interchange.timelines import (
    EditDocument,
    Join,
    Shot,
    edl_losses,
    edl_text,
    from_timeline,
    otio_text,
    read_timeline,
)

DISSOLVE = recipe_from_json({"name": "Mine", "mix": {"kind": "dissolve", "span": [-0.5, 0.5]}})


def edit(rate: Fraction = Fraction(25)) -> EditDocument:
    return EditDocument(
        "Lantern night",
        rate,
        (1280, 720),
        [
            Shot("dusk.mp4", 20, 110, 120),
            Shot("sail.mp4", 22, 112, 122),
            Shot("wake.mp4", 3, 93, 112),
        ],
        [Join(10, 6, DISSOLVE), Join(7, 6, book()["four-rolls"].recipe)],
    )


@pytest.mark.parametrize("rate", [Fraction(25), Fraction(24), Fraction(30000, 1001)])
def test_a_round_trip_through_opentimelineio_loses_nothing(rate: Fraction) -> None:
    text = otio_text(edit(rate))
    timeline = otio.adapters.read_from_string(text, "otio_json")
    back = from_timeline(timeline)
    assert (back.name, back.rate, back.size) == ("Lantern night", rate, (1280, 720))
    assert [(s.file, s.in_frame, s.out_frame) for s in back.shots] == [
        (s.file, s.in_frame, s.out_frame) for s in edit().shots
    ]
    assert back.joins == edit().joins


def test_others_read_clips_ranges_and_dissolves() -> None:
    timeline = otio.adapters.read_from_string(otio_text(edit()), "otio_json")
    track = timeline.tracks[0]
    clips = list(track.find_clips())
    assert [clip.source_range.start_time.value for clip in clips] == [20, 22, 3]
    assert [clip.duration().value for clip in clips] == [90, 90, 90]
    transition = next(each for each in track if isinstance(each, otio.schema.Transition))
    assert transition.transition_type == "SMPTE_Dissolve"
    assert (transition.in_offset.value, transition.out_offset.value) == (5, 3)


@pytest.mark.parametrize("rate", [Fraction(25), Fraction(24), Fraction(30)])
def test_an_edit_decision_list_keeps_cuts_and_dissolves(rate: Fraction) -> None:
    back = read_timeline(edl_text(edit(rate)), "night.edl", rate)
    # A list counts a dissolve from its first frame: the cut lies there, and the picture is the same.
    assert [(s.in_frame, s.out_frame) for s in back.shots] == [(20, 105), (17, 109), (0, 93)]
    assert [each.recipe.mix.kind for each in back.joins] == ["dissolve", "dissolve"]
    assert [each.recipe.mix.span for each in back.joins] == [(0, 1), (0, 1)]  # type: ignore[attr-defined]
    assert back.joins[0].after == 8


def test_what_a_list_cannot_carry_is_said() -> None:
    told = " ".join(edl_losses(edit()))
    assert "The passes of cuts 2 are left out." in told
    wiped = recipe_from_json({"mix": {"kind": "wipe"}})
    other = EditDocument("x", Fraction(25), None, edit().shots[:2], [Join(4, 4, wiped)])
    assert "The mixes of cuts 1 become hard cuts." in edl_losses(other)
    assert "AX" in edl_text(other) or "dusk" in edl_text(other)


@pytest.mark.parametrize(
    ("name", "text", "told"),
    [
        ("night.otio", "{nope", "night.otio cannot be read"),
        ("night.txt", "x", "give an .otio or .edl file"),
        ("empty.otio", otio.adapters.write_to_string(otio.schema.Timeline("x"), "otio_json"),
         "holds no picture track"),
    ],
)  # fmt: skip
def test_what_is_no_edit_is_refused(name: str, text: str, told: str) -> None:
    with pytest.raises(InvalidValue, match=told):
        read_timeline(text, name, Fraction(25))
