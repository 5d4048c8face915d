"""Frames of a matte that stand out of their neighbours."""

from idle_shimmer.core.subject.doubtful import doubtful_frames


def test_frames_that_stand_out_are_named_worst_first() -> None:
    changes = [0, 0.002, 0.002, 0.04, 0.002, 0.01, 0.002, 0.002]
    assert doubtful_frames(changes, 100) == [103, 105]
    assert doubtful_frames(changes, 100, most=1) == [103]


def test_small_or_even_changes_are_not_doubtful() -> None:
    assert doubtful_frames([0, 0.001, 0.0012, 0.001], 0) == []
    assert doubtful_frames([0.02] * 8, 0) == []
    assert doubtful_frames([], 0) == []
