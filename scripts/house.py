"""Counts what keeps the code easy to find one's way in, and fails where a limit is passed.

No two files import each other, directly or round about; no two files of one name do different things; and
no function, parameter list or file grows beyond the limits below. Run by ./test.
"""

import ast
import sys
from collections import Counter, defaultdict
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parent.parent
SOURCES = ROOT / "src"
MOST_PARAMETERS, MOST_LINES, MOST_BODY_LINES = 7, 330, 40
# Members of a family are named alike on purpose: what a filter shows and the kernel that computes it.
FAMILIES = {"__init__", "base", "errors", "directional_blur"}
Function = ast.FunctionDef | ast.AsyncFunctionDef


def modules() -> dict[str, Path]:
    """Return every module of the project by its dotted name."""
    found = {}
    for file in sorted(SOURCES.rglob("*.py")):
        parts = file.relative_to(SOURCES).with_suffix("").parts
        found[".".join(parts[:-1] if parts[-1] == "__init__" else parts)] = file
    return found


def imported(tree: ast.Module, known: dict[str, Path]) -> Iterator[str]:
    """Yield the modules of the project that a file imports, inside its functions too."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            yield from (each.name for each in node.names if each.name in known)
        elif isinstance(node, ast.ImportFrom) and node.module:
            for each in node.names:
                inner = f"{node.module}.{each.name}"
                if inner in known or node.module in known:
                    yield inner if inner in known else node.module


def circles(imports: dict[str, set[str]]) -> list[list[str]]:
    """Return the groups of files that import each other, directly or round about (Tarjan 1972)."""
    order: dict[str, int] = {}
    low: dict[str, int] = {}
    stack: list[str] = []
    found = []

    def visit(module: str) -> None:
        order[module] = low[module] = len(order)
        stack.append(module)
        for other in imports[module]:
            if other not in order:
                visit(other)
                low[module] = min(low[module], low[other])
            elif other in stack:
                low[module] = min(low[module], order[other])
        if low[module] == order[module]:
            group: list[str] = []
            while not group or group[-1] != module:
                group.append(stack.pop())
            if len(group) > 1 or module in imports[module]:
                found.append(sorted(group))

    for module in list(imports):
        if module not in order:
            visit(module)
    return found


def parameters(function: Function) -> int:
    """Return how many values a caller may give: ``self`` and ``cls`` are none."""
    taken = function.args
    named = [*taken.posonlyargs, *taken.args, *taken.kwonlyargs]
    return len(named) - (bool(named) and named[0].arg in ("self", "cls"))


def body_lines(function: Function) -> int:
    """Return the lines of a function's body, without its docstring."""
    body = function.body[1:] if ast.get_docstring(function) is not None else function.body
    return body[-1].end_lineno - body[0].lineno + 1 if body and body[-1].end_lineno else 0


def oversized(file: Path, tree: ast.Module) -> Iterator[str]:
    """Yield what passes a limit in a file."""
    place = file.relative_to(ROOT)
    lines = file.read_text(encoding="utf-8").count("\n")
    if lines > MOST_LINES:
        yield f"{place}: {lines} lines (at most {MOST_LINES})"
    for node in ast.walk(tree):
        if isinstance(node, Function):
            where = f"{place}:{node.lineno} {node.name}"
            if (count := parameters(node)) > MOST_PARAMETERS:
                yield f"{where}: {count} parameters (at most {MOST_PARAMETERS})"
            if (count := body_lines(node)) > MOST_BODY_LINES:
                yield f"{where}: a body of {count} lines (at most {MOST_BODY_LINES})"


def faults() -> Iterator[str]:
    """Yield every fault, a line each."""
    known = modules()
    imports: dict[str, set[str]] = defaultdict(set)
    for module, file in known.items():
        # Migrations are never changed.
        if ".migrations.versions." in module:
            continue
        tree = ast.parse(file.read_text(encoding="utf-8"))
        imports[module] = set(imported(tree, known))
        yield from oversized(file, tree)
    for file in sorted((ROOT / "scripts").glob("*.py")):
        yield from oversized(file, ast.parse(file.read_text(encoding="utf-8")))
    for module, others in imports.items():
        sideways = [each for each in others if each.endswith("_routes")]
        if module.endswith("_routes") and sideways:
            yield f"{module} borrows from other routes: {', '.join(sideways)}"
    for group in circles(imports):
        yield f"import each other: {', '.join(group)}"
    names = Counter(file.stem for file in known.values())
    for name in sorted(name for name, count in names.items() if count > 1 and name not in FAMILIES):
        same = (str(f.relative_to(SOURCES)) for f in known.values() if f.stem == name)
        yield f"several files are called {name}: {', '.join(same)}"


if __name__ == "__main__":
    found = list(faults())
    print(*found, sep="\n")
    sys.exit(bool(found))
