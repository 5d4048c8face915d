"""Writes docs/accuracy.md from what a whole run of ``test_accuracy.py`` has found, in one process or several."""

import math
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import pytest

FILE = "tests/core/frame/test_accuracy.py"
# The property of a test: (its place among all, what, reference, dB, at least).
FIGURE = "figure"
HEAD = [
    "# Accuracy",
    "",
    "Peak signal-to-noise ratio in dB on photographs of `skimage.data`, written by",
    "`tests/core/frame/test_accuracy.py` on every whole run of it. The limit is what the test holds the",
    "value to.",
    "",
    "| what | reference | dB | limit |",
    "| --- | --- | ---: | ---: |",
]


def write_report(path: Path, config: pytest.Config, reports: Iterable[pytest.TestReport]) -> None:
    """Write ``path`` where the whole file was run and passed. Figures are whole dB, so that they are steady."""
    chosen = (
        config.option.keyword or config.option.markexpr or any("::" in each for each in config.args)
    )
    ran = [each for each in reports if each.nodeid.startswith(FILE) and each.when == "call"]
    if chosen or not ran or not all(each.passed for each in ran):
        return
    figures: list[Any] = [
        each for report in ran for name, each in report.user_properties if name == FIGURE
    ]
    lines = list(HEAD)
    for _, what, reference, value, least in sorted(figures):
        text = "equal" if math.isinf(value) else f"{math.floor(value)}"
        lines.append(f"| {what} | {reference} | {text} | {least:g} |")
    path.write_text("\n".join(lines) + "\n", encoding="utf-8")
