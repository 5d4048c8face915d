"""Speed, measured only by ./benchmark and reported in tables at the end."""

from collections.abc import Iterator
from typing import Any

import pytest

FIGURES: list[tuple[str, str]] = []


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--run-bench", action="store_true", help="measure speed (see ./bench)")


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    if not config.getoption("--run-bench"):
        bench = [item for item in items if "tests/benchmarks" in str(item.path)]
        items[:] = [item for item in items if item not in bench]


@pytest.fixture
def report() -> Iterator[Any]:
    """Puts a value into the table that is printed at the end."""
    return lambda name, value: FIGURES.append((name, value))


def pytest_terminal_summary(terminalreporter: Any) -> None:
    if not FIGURES:
        return
    terminalreporter.section("values")
    wide = max(len(name) for name, _ in FIGURES)
    for name, value in FIGURES:
        terminalreporter.write_line(f"{name:{wide}}  {value}")
