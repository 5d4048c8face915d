"""Draws the house from the import rules: docs/house.svg, and the table of rooms in docs/architecture.md.

Both are made of pyproject.toml's contracts and of the first line of each room's docstring; with ``--check``
they are only compared.
"""

import ast
import textwrap
import tomllib
from html import escape
from pathlib import Path
from typing import Annotated, Any

import typer

ROOT = Path(__file__).parent.parent
SOURCES = ROOT / "src/idle_shimmer"
PICTURE, PAGE = ROOT / "docs/house.svg", ROOT / "docs/architecture.md"
START, END = "<!-- rooms -->", "<!-- end of rooms -->"
_WIDTH, _GAP, _MARGIN, _PADDING = 1200, 8, 16, 10
_LINE, _LETTER = 15, 6.4
_STYLE = """
text { font-family: sans-serif; font-size: 12px; fill: #a8a49d }
.name { font-size: 14px; font-weight: bold; fill: #ece9e4 }
.rooms { fill: #63b5a3 }
rect { fill: #262626; stroke: #3c3c3c }
.page { fill: #1c1c1c; stroke: none }
"""


def contracts() -> list[dict[str, Any]]:
    """Return the import rules."""
    with (ROOT / "pyproject.toml").open("rb") as file:
        found: list[dict[str, Any]] = tomllib.load(file)["tool"]["importlinter"]["contracts"]
    return found


def floors() -> list[list[str]]:
    """Return the packages of the house, the highest floor first."""
    rule = next(each for each in contracts() if each.get("containers") == ["idle_shimmer"])
    return [layer.split(" | ") for layer in rule["layers"]]


def holds(name: str) -> str:
    """Return what a package or module holds: the first line of its docstring."""
    folder = SOURCES / name
    file = folder / "__init__.py" if folder.is_dir() else folder.with_suffix(".py")
    text = ast.get_docstring(ast.parse(file.read_text(encoding="utf-8"))) or ""
    return text.split("\n")[0].rstrip(".")


def rooms_in(name: str) -> list[str]:
    """Return the packages in a package."""
    return sorted(
        each.parent.name
        for each in (SOURCES / name).glob("*/__init__.py")
        if each.parent.name != "__pycache__"
    )


def picture() -> str:
    """Return the house as an SVG: a floor imports only those below it."""
    parts, y = [], float(_MARGIN)
    for row in floors():
        width = (_WIDTH - 2 * _MARGIN - (len(row) - 1) * _GAP) / len(row)
        texts = [_texts(name, width) for name in row]
        high = max(map(len, texts)) * _LINE + 2 * _PADDING
        for n, lines in enumerate(texts):
            parts += _room(lines, (_MARGIN + n * (width + _GAP), y), (width, high))
        y += high + _GAP
    height = y - _GAP + _MARGIN
    head = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {_WIDTH} {height:g}" role="img">',
        "<title>The rooms of the code: each imports only from floors below its own</title>",
        f"<style>{_STYLE}</style>",
        f'<rect class="page" width="{_WIDTH}" height="{height:g}"/>',
    ]
    return "\n".join([*head, *parts, "</svg>"]) + "\n"


def _texts(name: str, width: float) -> list[tuple[str, str]]:
    """Return the lines of a room, each with its class: its name, what it holds, the rooms in it."""
    letters = int((width - 2 * _PADDING) / _LETTER)
    lines = [("name", name)]
    lines += [("", line) for line in textwrap.wrap(holds(name), letters)]
    return lines + [("rooms", line) for line in textwrap.wrap(", ".join(rooms_in(name)), letters)]


def _room(
    lines: list[tuple[str, str]], place: tuple[float, float], size: tuple[float, float]
) -> list[str]:
    (x, y), (width, height) = place, size
    return [
        f'<rect x="{x:g}" y="{y:g}" width="{width:g}" height="{height:g}" rx="4"/>',
        *(
            f'<text class="{kind}" x="{x + _PADDING:g}" y="{y + 22 + n * _LINE:g}">{escape(line)}</text>'
            for n, (kind, line) in enumerate(lines)
        ),
    ]


def table() -> str:
    """Return a row for each room: what it holds, what is in it, and what it may import."""
    rows = floors()
    lines = ["| room | holds | rooms in it | may import |", "| --- | --- | --- | --- |"]
    for place, row in enumerate(rows):
        below = [f"`{name}`" for lower in rows[place + 1 :] for name in lower]
        allowed = ", ".join(below) if below else "nothing of ours"
        if place and len(below) > 6:
            allowed = f"what stands below it here, from {below[0]} on"
        for name in row:
            inside = ", ".join(f"`{each}`" for each in rooms_in(name))
            lines.append(f"| `{name}` | {holds(name)} | {inside} | {allowed} |")
    return "\n".join(lines) + "\n"


def main(check: Annotated[bool, typer.Option(help="Only compare.")] = False) -> None:
    """Draw, or compare."""
    page = PAGE.read_text(encoding="utf-8")
    before, rest = page.split(START)
    _, after = rest.split(END)
    made = {PAGE: f"{before}{START}\n\n{table()}\n{END}{after}", PICTURE: picture()}
    for file, text in made.items():
        if not check:
            file.write_text(text, encoding="utf-8")
        elif not file.exists() or file.read_text(encoding="utf-8") != text:
            print(f"{file.relative_to(ROOT)} is out of date: run python -m scripts.house_plan")
            raise typer.Exit(1)


if __name__ == "__main__":
    typer.run(main)
