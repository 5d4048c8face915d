"""Timelines that are not trusted: each is refused in words, and nothing outlives it.

Sources: RFC 8259 (JSON; NaN and infinities are not numbers), OpenTimelineIO's schema.
"""

import json
import subprocess
import sys
from contextlib import suppress
from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from idle_shimmer.core.errors import InvalidValue, ShimmerError
from idle_shimmer.interchange import guarded
from idle_shimmer.interchange.found import FoundClip, FoundCut, FoundTimeline
from idle_shimmer.interchange.guarded import read_edit, read_rates
from idle_shimmer.interchange.reading import edit_of
from idle_shimmer.interchange.schema import KEY
from idle_shimmer.interchange.timelines import EditDocument, TimelineClip, TimelineCut, otio_text

RATE = Fraction(25)
WHOLE = EditDocument(
    "Harbour",
    RATE,
    (1280, 720),
    [TimelineClip("quay.mp4", 5, 50), TimelineClip("sail.mp4", 0, 40)],
    [TimelineCut(4, 6)],
)


def read(document: Any) -> EditDocument:
    text = document if isinstance(document, str) else json.dumps(document)
    return read_edit(text, "night.otio", RATE)


def changed(**facts: Any) -> dict[str, Any]:
    """Return a timeline with other facts of ours."""
    document = json.loads(otio_text(WHOLE))
    document["metadata"][KEY].update(facts)
    return document


def test_what_is_written_is_read() -> None:
    assert read(otio_text(WHOLE)) == EditDocument(
        WHOLE.name, RATE, WHOLE.size, WHOLE.clips, WHOLE.joins
    )


@pytest.mark.parametrize("text", ['["' + '\\"' * 500_000, '["' + '\\\n"' * 300_000])
def test_a_string_without_an_end_is_refused_before_the_limit_of_time(text: str) -> None:
    """A megabyte of escaped quotes: what looks at each of them to the end computes for hours."""
    with pytest.raises(ShimmerError, match=r"Unterminated string|Invalid"):
        read(text)


def test_rates_are_found_in_a_process_of_their_own() -> None:
    lines = [f"{n:03}  AX  V  C  00:00:00:00 00:00:01:00 00:00:00:00 00:00:01:00" for n in range(9)]
    best = read_rates("TITLE: x\n" + "\n".join(lines), "x.edl")[0]
    assert (best.rate, best.events, best.fitting, best.is_possible) == (RATE, 9, 9, True)
    with pytest.raises(ShimmerError, match="zero bytes"):
        read_rates("\0", "x.edl")


@pytest.mark.parametrize(
    "text", ["[" * 25_000 + "]" * 25_000, '{"a":' * 25_000 + "1" + "}" * 25_000]
)
def test_nested_brackets_are_refused(text: str) -> None:
    """50 kB of them overflow the stack of the native parser."""
    with pytest.raises(ShimmerError, match="levels deep"):
        read(text)


def test_brackets_in_a_name_are_no_nesting() -> None:
    named = EditDocument('[{"' * 100, RATE, None, WHOLE.clips, WHOLE.joins)
    assert read(otio_text(named)).name == named.name[:200]


@pytest.mark.parametrize("number", ["NaN", "Infinity", "-Infinity", "1e300", "9" * 400])
def test_numbers_that_no_edit_has_are_refused(number: str) -> None:
    text = otio_text(WHOLE).replace('"value": 45.0', f'"value": {number}')
    assert number in text
    with pytest.raises(ShimmerError, match=r"that no edit has|cannot be read"):
        read(text)


@pytest.mark.parametrize(
    ("facts", "message"),
    [
        ({"size": [0, 720]}, "frame size"),
        ({"size": [-1280, 720]}, "frame size"),
        ({"size": [200_000, 200_000]}, "frame size"),
        ({"size": [1280]}, "frame size"),
        ({"rate": "0"}, "fps|frame rate"),
        ({"rate": "1000000000"}, "fps|frame rate"),
        ({"rate": 25}, "cannot be read"),
        ({"size": "large"}, "cannot be read|frame size"),
    ],
)
def test_our_own_facts_are_checked_as_well(facts: dict[str, Any], message: str) -> None:
    with pytest.raises((ShimmerError), match=message):
        read(changed(**facts))


@pytest.mark.parametrize(
    "cut", [{"before": 10**9, "after": 1}, {"before": 4}, [], "no", {"recipe": 5}]
)
def test_a_foreign_cut_is_refused(cut: Any) -> None:
    document = json.loads(otio_text(WHOLE))
    clip = document["tracks"]["children"][0]["children"][0]
    kept = clip["metadata"][KEY]["cut"]
    clip["metadata"][KEY]["cut"] = (
        {**kept, **cut} if isinstance(cut, dict) and cut != {"before": 4} else cut
    )
    with pytest.raises(ShimmerError):
        read(document)


def test_too_many_clips_are_refused() -> None:
    many = EditDocument(
        "Long", RATE, None, [TimelineClip("quay.mp4", 0, 5)] * 1001, [TimelineCut(1, 1)] * 1000
    )
    with pytest.raises(ShimmerError, match="1001 clips"):
        read(otio_text(many))


@pytest.mark.parametrize("output", [b"", b"{", b"[1]", b'"problem"', b'{"found": {"name": 5}}'])
def test_an_answer_that_is_none_is_a_damaged_file(
    monkeypatch: pytest.MonkeyPatch, output: bytes
) -> None:
    monkeypatch.setattr(guarded, "_answer", lambda _: (0, output))
    with pytest.raises(ShimmerError, match=r"it is damaged\. Export it again"):
        read(otio_text(WHOLE))


def test_a_wrong_recipe_is_named_without_the_names_of_fields() -> None:
    document = json.loads(otio_text(WHOLE))
    clip = document["tracks"]["children"][0]["children"][0]
    clip["metadata"][KEY]["cut"]["recipe"]["shutter"] = -1
    with pytest.raises(InvalidValue, match=r"keeps of cut 1 of night.otio is wrong") as refused:
        read(document)
    assert "greater than or equal to 0" in refused.value.message
    assert "shutter:" not in refused.value.message


@pytest.mark.parametrize(("ahead", "behind"), [(-5, 5), (5, -5), (100_000, 0)])
def test_a_transition_outside_what_a_window_may_be_is_refused(ahead: int, behind: int) -> None:
    clips = [FoundClip("quay.mp4", 0, 5, is_timecode=False)] * 2
    found = FoundTimeline("Evening", "25", None, clips, [FoundCut(ahead=ahead, behind=behind)])
    with pytest.raises(InvalidValue, match=r"the transition at cut 1 of night.otio"):
        edit_of(found, "night.otio")


@pytest.mark.parametrize("cuts", [0, 2])
def test_clips_and_cuts_must_fit_each_other(cuts: int) -> None:
    clips = [FoundClip("quay.mp4", 0, 5, is_timecode=False)] * 2
    with pytest.raises(ShimmerError, match="it is damaged"):
        edit_of(FoundTimeline("Evening", "25", None, clips, [FoundCut()] * cuts), "night.otio")


def test_times_before_the_start_are_refused() -> None:
    text = otio_text(WHOLE).replace('"value": 5.0', '"value": -5.0')
    with pytest.raises(ShimmerError, match="before its start"):
        read(text)


def test_what_computes_too_long_is_refused_with_the_limit(monkeypatch: pytest.MonkeyPatch) -> None:
    """The limit counts what the process computes, not how long a busy machine keeps it waiting."""
    monkeypatch.setattr(guarded, "COMPUTING_SECONDS", 1)
    text = json.dumps({"OTIO_SCHEMA": "Timeline.1", "metadata": {"elsewhere": [1] * 6_000_000}})
    with pytest.raises(
        ShimmerError, match=r"night.otio cannot be read within 1 s: export a shorter"
    ):
        read(text)


def test_the_process_that_parses_loads_no_picture_core() -> None:
    """It starts with every file: what it does not need would take seconds of a busy machine."""
    listing = "import sys, idle_shimmer.interchange.parsing; print(*sys.modules)"
    done = subprocess.run(
        [sys.executable, "-c", listing], capture_output=True, text=True, check=True
    )
    loaded = {name.partition(".")[0] for name in done.stdout.split()}
    assert "opentimelineio" in loaded
    assert not loaded & {"numpy", "numba", "cv2", "pydantic", "sqlalchemy"}


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=12),
    lambda inner: (
        st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3)
    ),
    max_leaves=8,
)


@settings(max_examples=12)
@given(st.data())
def test_a_timeline_with_anything_anywhere_is_read_or_refused(data: st.DataObject) -> None:
    document = json.loads(otio_text(WHOLE))
    node: Any = document
    for _ in range(data.draw(st.integers(1, 6))):
        keys = (
            list(node)
            if isinstance(node, dict)
            else list(range(len(node)))
            if isinstance(node, list)
            else []
        )
        if not keys:
            break
        key = data.draw(st.sampled_from(keys))
        if data.draw(st.booleans()) or not isinstance(node[key], dict | list):
            node[key] = data.draw(JSON)
            break
        node = node[key]
    with suppress(ShimmerError):
        assert read(document).clips
