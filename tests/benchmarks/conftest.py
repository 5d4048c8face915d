"""Speed, measured only by ./benchmark and reported in tables at the end."""

from collections.abc import Iterator
from typing import Any

import pytest

from tests.conftest import ROOT

PAGE = ROOT / "docs" / "performance.md"
BEGIN, END = "<!-- values -->", "<!-- end of values -->"
FIGURES: list[tuple[str, str]] = []


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--run-bench", action="store_true", help="measure speed (see ./benchmark)")
    parser.addoption("--publish", action="store_true", help="write values to docs/performance.md")


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    if not config.getoption("--run-bench"):
        bench = [item for item in items if "tests/benchmarks" in str(item.path)]
        items[:] = [item for item in items if item not in bench]


@pytest.fixture
def report() -> Iterator[Any]:
    """Puts a value into the table that is printed at the end."""
    return lambda name, value: FIGURES.append((name, value))


def pytest_terminal_summary(terminalreporter: Any, config: pytest.Config) -> None:
    if not FIGURES:
        return
    if config.getoption("--publish"):
        publish(dict(FIGURES))
    terminalreporter.section("values")
    wide = max(len(name) for name, _ in FIGURES)
    for name, value in FIGURES:
        terminalreporter.write_line(f"{name:{wide}}  {value}")


def publish(found: dict[str, str]) -> None:
    """Put the values into the table of the page, beside those that were not measured now."""
    text = PAGE.read_text(encoding="utf-8")
    before, _, rest = text.partition(BEGIN)
    table, _, after = rest.partition(END)
    rows = [line.strip("| ").split(" | ") for line in table.splitlines() if line.startswith("| ")]
    known = {row[0]: row[1] for row in rows[2:] if len(row) == 2}
    lines = ["| what | value |", "| --- | --- |"]
    lines += [f"| {name} | {value} |" for name, value in sorted({**known, **found}.items())]
    whole = "\n".join([before + BEGIN, "", *lines, "", END]) + after
    PAGE.write_text(whole, encoding="utf-8")
