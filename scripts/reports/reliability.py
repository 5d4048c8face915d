"""Writes docs/reliability.md from what the tests of faults counted."""

import json
from pathlib import Path
from typing import Any

import typer

from idle_shimmer.media.decode.confinement import available

_INTRODUCTION = """# Reliability

Written by `scripts/faults`, which puts the application under faults and hostile input, longer than
`./test` does. Each table counts what happened in the last run of that part.

What is confined on the machine of this run: decoders run as processes of their own with limits on
memory, files and time; system calls are filtered: {system_calls}; files other than the one that is
decoded cannot be read: {files}.
"""


def main(tally: Path, out: Path) -> None:
    """Write the page ``out`` from the counts in the folder ``tally``."""
    layers = available()
    text = _INTRODUCTION.format(
        system_calls="yes (seccomp)" if layers.system_calls else "no (needs Linux with libseccomp)",
        files="yes (Landlock)" if layers.files else "no (needs Linux 5.13 or newer)",
    )
    for path in sorted(tally.glob("*.json")):
        text += _section(json.loads(path.read_text(encoding="utf-8")))
    out.write_text(text, encoding="utf-8")


def _section(found: dict[str, Any]) -> str:
    rows = "".join(f"| {what} | {number:,} |\n" for what, number in sorted(found["counts"].items()))
    most_mb = found["most_memory_kb"] / 1000
    title = found["name"].capitalize()
    return (
        f"\n## {title}\n\n| What | Count |\n| --- | ---: |\n{rows}"
        f"\nMost memory of one process until then: {most_mb:,.0f} MB.\n"
    )


if __name__ == "__main__":
    typer.run(main)
