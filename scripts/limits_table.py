"""Writes the table of limits into docs/operating.md; with ``--check`` only compares."""

from pathlib import Path
from typing import Annotated

import typer

from idle_shimmer.limits import Limits, size_text

PAGE = Path(__file__).parent.parent / "docs" / "operating.md"
START, END = "<!-- limits -->", "\n## Logs"


def main(check: Annotated[bool, typer.Option(help="Only compare.")] = False) -> None:
    """Write or compare."""
    before, rest = PAGE.read_text(encoding="utf-8").split(START)
    after = rest[rest.index(END) :]
    text = f"{before}{START}\n\n{_table()}{after}"
    if check:
        if text != PAGE.read_text(encoding="utf-8"):
            raise typer.Exit(1)
        return
    PAGE.write_text(text, encoding="utf-8")


def _table() -> str:
    rows = [
        f"| {info.description} | {_value(name, info.default)} | `IDLE_SHIMMER_{name.upper()}` |"
        for name, info in Limits.model_fields.items()
    ]
    return "\n".join(["| limit | usual value | variable |", "| --- | ---: | --- |", *rows]) + "\n"


def _value(name: str, value: float) -> str:
    return size_text(int(value)) if name.endswith("bytes") else f"{value:,.0f}"


if __name__ == "__main__":
    typer.run(main)
