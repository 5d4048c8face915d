"""Timelines from elsewhere: rates that are not named, and what an edit does not have.

The lists are written here after the sample files of OpenTimelineIO and its CMX 3600 adapter.
"""

from fractions import Fraction

import opentimelineio as otio
import pytest

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.interchange.guarded import read_edit
from idle_shimmer.interchange.list_rates import rate_fits
from idle_shimmer.interchange.placing import placed_range
from idle_shimmer.interchange.timelines import TimelineClip

HEAD = "TITLE: Evening\nFCM: NON-DROP FRAME\n\n"
AT_25 = HEAD + (
    "001  DUSK     V     C        01:00:00:00 01:00:02:24 00:00:00:00 00:00:02:24\n"
    "* FROM CLIP NAME:  dusk water\n"
    "002  SAIL     V     C        01:00:04:10 01:00:06:24 00:00:02:24 00:00:05:13\n"
    "* FROM CLIP NAME:  hoisted sail\n"
)
SPEED = AT_25 + (
    "003  WAKE     V     C        01:00:01:00 01:00:05:00 00:00:05:13 00:00:07:13\n"
    "M2   WAKE       050.0                01:00:01:00\n"
    "* FROM CLIP NAME:  wake\n"
    "004  BOARD    V     C        01:00:03:00 01:00:03:01 00:00:07:13 00:00:09:13\n"
    "M2   BOARD      000.0                01:00:03:00\n"
    "* FROM CLIP NAME:  title board\n"
)
DROP = (
    "TITLE: Evening\nFCM: DROP FRAME\n\n"
    "001  DUSK     V     C        00:00:58;00 00:01:02;02 01:00:00;00 01:00:04;02\n"
)


def best(text: str) -> Fraction:
    return rate_fits(text)[0].rate


def test_the_proposed_rate_is_one_at_which_the_list_adds_up() -> None:
    fits = {fit.rate: fit for fit in rate_fits(AT_25)}
    # Frame 24 does not exist at 24 frames per second; at 25 alone both of the second event are 64 long.
    assert best(AT_25) == 25
    assert (fits[Fraction(25)].fitting, fits[Fraction(25)].events) == (2, 2)
    assert fits[Fraction(30)].fitting == 1
    assert not fits[Fraction(24)].is_possible
    assert best(DROP) == Fraction(30000, 1001)


def test_what_does_not_add_up_is_noted_and_read_all_the_same() -> None:
    found = read_edit(AT_25, "evening.edl", Fraction(30))
    assert [shot.out_frame - shot.in_frame for shot in found.clips] == [84, 74]
    (note,) = found.notes
    assert note == (
        "Source and record of events 2 are not equally long at 30 fps: the length of the source is"
        " used."
    )


def test_speed_changes_keep_their_length_and_are_noted() -> None:
    found = read_edit(SPEED, "evening.edl", Fraction(25))
    assert [shot.out_frame - shot.in_frame for shot in found.clips] == [74, 64, 50, 50]
    assert any("Played at normal speed" in note and "wake" in note for note in found.notes)
    assert any("Freeze frames" in note and "title board" in note for note in found.notes)


def test_what_a_timeline_has_beyond_one_run_of_clips_is_noted() -> None:
    timeline = otio.schema.Timeline("Evening")
    pictures = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    second = otio.opentime.TimeRange(
        otio.opentime.RationalTime(0, 25), otio.opentime.RationalTime(25, 25)
    )
    for name in ("dusk", "sail"):
        clip = otio.schema.Clip(name, otio.schema.ExternalReference(f"{name}.mp4", second), second)
        clip.effects.append(otio.schema.Effect(name="glow"))
        pictures.append(clip)
        pictures.append(otio.schema.Gap(source_range=second))
    pictures.append(otio.schema.Stack("nested"))
    timeline.tracks.extend(
        [
            pictures,
            otio.schema.Track("V2", kind=otio.schema.TrackKind.Video),
            otio.schema.Track("A1", kind=otio.schema.TrackKind.Audio),
        ]
    )
    timeline.metadata["elsewhere"] = {"endless": float("inf")}
    text = otio.adapters.write_to_string(timeline, "otio_json")
    assert "Inf" in text
    found = read_edit(text, "evening.otio", Fraction(25))
    assert [shot.file for shot in found.clips] == ["dusk.mp4", "sail.mp4"]
    assert found.notes == [
        "Only the first video track is read: 1 more track is left out.",
        "1 sound track is left out: the clips keep their own sound.",
        "2 gaps are left out: what follows comes earlier.",
        "1 nested timeline is left out.",
        "Effects are left out: dusk, sail.",
    ]


def test_sound_alone_is_refused_in_plain_words() -> None:
    text = HEAD + "001  MUSIC    AA    C        00:00:00:00 00:00:02:00 00:00:00:00 00:00:02:00\n"
    with pytest.raises(InvalidValue, match="has no video track with clips: export one that has"):
        read_edit(text, "evening.edl", Fraction(25))


def test_frames_beyond_a_clip_count_from_the_full_hour() -> None:
    rate, hour = Fraction(25), 90_000
    inside = placed_range("dusk", TimelineClip("dusk.mp4", 20, 60), 100, rate)
    assert (inside.first, inside.end, inside.notes) == (20, 60, [])
    coded = placed_range("dusk", TimelineClip("dusk.mp4", hour + 20, hour + 60), 100, rate)
    assert (coded.first, coded.end) == (20, 60)
    assert coded.notes == ["dusk: its frames are counted from 01:00:00:00."]
    short = placed_range("dusk", TimelineClip("dusk.mp4", 80, 130), 100, rate)
    assert (short.first, short.end) == (80, 100)
    assert short.notes == ["dusk has 30 frames fewer than the timeline shows of it."]
    beyond = placed_range("dusk", TimelineClip("dusk.mp4", 400, 430), 100, rate)
    assert (beyond.first, beyond.end) == (0, 30)
    counted = TimelineClip("dusk.mp4", hour + 520, hour + 560, is_timecode=True)
    own = placed_range("dusk", counted, 100, rate, start=hour + 500)
    assert (own.first, own.end, own.notes) == (20, 60, [])
    assert placed_range("board", TimelineClip("board.png", 400, 430), None, rate).first == 400
