"""Edits through OpenTimelineIO's own readers and writers, and back."""

from dataclasses import replace
from fractions import Fraction
from typing import Any

import opentimelineio as otio
import pytest

from idle_shimmer.book.entries import book
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.recipe import recipe_from_json, recipe_to_json
from idle_shimmer.interchange.decision_lists import edl_losses, edl_text
from idle_shimmer.interchange.guarded import read_edit
from idle_shimmer.interchange.timelines import EditDocument, TimelineClip, TimelineCut, otio_text

DISSOLVE = recipe_from_json({"name": "Mine", "mix": {"kind": "dissolve", "span": [-0.5, 0.5]}})
FADING_ROLLS = recipe_from_json(
    {
        "name": "Rolls",
        "mix": {"kind": "dissolve", "span": [-0.4, 0.4]},
        "filters": recipe_to_json(book()["four-rolls"].recipe)["filters"],
    }
)


def edit(rate: Fraction = Fraction(25)) -> EditDocument:
    return EditDocument(
        "Lantern night",
        rate,
        (1280, 720),
        [
            TimelineClip("dusk.mp4", 20, 110, 120),
            TimelineClip("sail.mp4", 22, 112, 122),
            TimelineClip("wake.mp4", 3, 93, 112),
        ],
        [TimelineCut(10, 6, DISSOLVE), TimelineCut(7, 6, FADING_ROLLS)],
    )


@pytest.mark.parametrize("rate", [Fraction(25), Fraction(24), Fraction(30000, 1001)])
def test_a_round_trip_through_opentimelineio_loses_nothing(rate: Fraction) -> None:
    text = otio_text(edit(rate))
    back = read_edit(text, "night.otio", Fraction(25))
    assert (back.name, back.rate, back.size) == ("Lantern night", rate, (1280, 720))
    assert [(s.file, s.in_frame, s.out_frame) for s in back.clips] == [
        (s.file, s.in_frame, s.out_frame) for s in edit().clips
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


NTSC = Fraction(30000, 1001)


@pytest.mark.parametrize(("written", "read"), [(edl_text, "night.edl"), (otio_text, "night.otio")])
def test_a_dissolve_that_is_stated_in_frames_is_as_long_in_a_list(written: Any, read: str) -> None:
    exact = recipe_from_json({"mix": {"kind": "dissolve", "span": [{"frames": -2}, {"frames": 2}]}})
    made = replace(edit(), joins=[TimelineCut(10, 6), TimelineCut(7, 6, exact)])
    document = otio.adapters.read_from_string(otio_text(made), "otio_json")
    found = [
        each for each in document.video_tracks()[0] if isinstance(each, otio.schema.Transition)
    ]
    assert [(each.in_offset.value, each.out_offset.value) for each in found] == [(2, 2)]
    assert read_edit(written(made), read, made.rate).joins[1].recipe.mix.kind == "dissolve"


@pytest.mark.parametrize(
    ("rate", "drop_frame"),
    [
        (Fraction(25), False),
        (Fraction(24), False),
        (Fraction(30), False),
        (NTSC, False),
        (NTSC, True),
    ],
)
def test_an_edit_decision_list_keeps_cuts_and_dissolves(rate: Fraction, drop_frame: bool) -> None:
    text = edl_text(edit(rate), drop_frame=drop_frame)
    assert ("FCM: DROP FRAME" in text) == drop_frame
    back = read_edit(text, "night.edl", rate)
    # A list counts a dissolve from its first frame: the cut lies there, and the picture is the same.
    assert [(s.in_frame, s.out_frame) for s in back.clips] == [(20, 105), (17, 109), (0, 93)]
    assert [each.recipe.mix.kind for each in back.joins] == ["dissolve", "dissolve"]
    assert [each.recipe.mix.span for each in back.joins] == [(0, 1), (0, 1)]  # type: ignore[attr-defined]
    assert back.joins[0].after == 8


def test_drop_frame_keeps_up_with_the_clock() -> None:
    """SMPTE ST 12-1: ten minutes at 29.97 are 17 982 frames, and so count as 10:00."""
    long = EditDocument(
        "x",
        NTSC,
        None,
        [TimelineClip("dusk.mp4", 0, 17982), TimelineClip("sail.mp4", 0, 9)],
        [TimelineCut(1, 1)],
    )
    assert "00:10:00;00" in edl_text(long, drop_frame=True)
    assert "00:09:59:12" in edl_text(long)
    back = read_edit(edl_text(long, drop_frame=True), "x.edl", NTSC)
    assert back.clips[0].out_frame == 17982
    with pytest.raises(InvalidValue, match="no drop-frame timecode"):
        edl_text(edit(), drop_frame=True)


def test_a_list_carries_the_code_of_a_wipe() -> None:
    clock = recipe_from_json(
        {"mix": {"kind": "wipe", "matte": {"type": "clockWipe", "subtype": "clockwiseTwelve"}}}
    )
    noisy = recipe_from_json(
        {"mix": {"kind": "wipe", "matte": {"clouds": {"size": 0.2, "seed": 1}}}}
    )
    shots = edit().clips
    text = edl_text(
        EditDocument(
            "x", Fraction(25), None, shots, [TimelineCut(4, 4, clock), TimelineCut(4, 4, noisy)]
        )
    )
    assert text.count(" W201 008 ") == 1
    back = read_edit(text, "x.edl", Fraction(25))
    first, second = (each.recipe.mix for each in back.joins)
    assert (first.kind, second.kind) == ("wipe", "cut")
    assert first.matte.type == "clockWipe"  # type: ignore[attr-defined]
    assert first.matte.subtype == "clockwiseTwelve"  # type: ignore[attr-defined]


def test_what_a_list_cannot_carry_is_said() -> None:
    losses = " ".join(edl_losses(edit()))
    assert "The filters of cuts 2 are left out." in losses
    pushed = recipe_from_json({"mix": {"kind": "push"}})
    other = EditDocument("x", Fraction(25), None, edit().clips[:2], [TimelineCut(4, 4, pushed)])
    assert "The mixes of cuts 1 become hard cuts." in edl_losses(other)


@pytest.mark.parametrize(
    ("name", "text", "message"),
    [
        ("night.otio", "{nope", "night.otio cannot be read"),
        ("empty.otio", otio.adapters.write_to_string(otio.schema.Timeline("x"), "otio_json"),
         "has no video track"),
    ],
)  # fmt: skip
def test_a_file_that_is_not_an_edit_is_refused(name: str, text: str, message: str) -> None:
    with pytest.raises(InvalidValue, match=message):
        read_edit(text, name, Fraction(25))
