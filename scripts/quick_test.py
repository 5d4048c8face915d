"""The linters, and the fast tests of what has changed against origin/main: for every few minutes of work.

Called by ./test --quick. Tests of src/idle_shimmer/ROOM/… are those in tests/ROOM/…; the page's are those that
vitest finds for the changed files. The whole is ./test.
"""

import subprocess
import sys
import time
from pathlib import Path

from scripts.test_parts import LOGS, PYTHON, ROOT, Part, Run, last_line, pytest, web

_SOURCES = "src/idle_shimmer/"
# Folders whose tests start processes and pages: they are not quick.
_SLOW_FOLDERS = ("tests/browser", "tests/faults", "tests/jobs", "tests/benchmarks", "tests/support")


def _git(*arguments: str) -> list[str]:
    # Git with arguments of our own.
    done = subprocess.run(  # noqa: S603
        ["git", *arguments],  # noqa: S607
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=False,
    )
    return done.stdout.split()


def changed() -> list[str]:
    """Return the files that differ from origin/main, those that git does not know yet included."""
    base = _git("merge-base", "origin/main", "HEAD") or ["HEAD"]
    found = {*_git("diff", "--name-only", base[0]), *_git("ls-files", "-o", "--exclude-standard")}
    return sorted(name for name in found if (ROOT / name).is_file())


def tests_of(files: list[str]) -> list[str]:
    """Return the folders and files of tests of changed files: the nearest folder that there is."""
    found = set()
    for name in files:
        if name.startswith("tests/") and Path(name).name.startswith("test_"):
            found.add(name)
        elif name.startswith(_SOURCES) and name.endswith(".py"):
            folder = Path("tests", name.removeprefix(_SOURCES)).parent
            while not any((ROOT / folder).glob("test_*.py")) and folder != Path("tests"):
                folder = folder.parent
            found.add(str(folder))
    return sorted(each for each in found - {"tests"} if not each.startswith(_SLOW_FOLDERS))


def parts_for(files: list[str]) -> list[Part]:
    """Return what has to run for changed files."""
    found = [
        Part("ruff", ".venv/bin/ruff check . && .venv/bin/ruff format --check ."),
        Part("house", f"{PYTHON} scripts/house.py && .venv/bin/lint-imports"),
    ]
    if any(name.endswith(".py") for name in files):
        found.insert(0, Part("mypy", ".venv/bin/mypy"))
    if tests := tests_of(files):
        found.append(pytest("quick", " ".join(tests), 1.0, (), "-m 'not slow'"))
    pages = [name.removeprefix("web/") for name in files if name.startswith("web/src/")]
    if pages:
        linted = " ".join(f"'{name}'" for name in pages if name.endswith((".ts", ".svelte")))
        found.append(Part("eslint", web(f"npx prettier --check . && npx eslint {linted or '.'}")))
        found.append(Part("svelte-check", web("npm run --silent check")))
        found.append(Part("vitest", web(f"npx vitest related --run --passWithNoTests {linted}")))
    return found


def main() -> int:
    """Run them."""
    LOGS.mkdir(parents=True, exist_ok=True)
    began = time.monotonic()
    outcomes = Run(parts_for(changed())).all()
    print(last_line(outcomes, time.monotonic() - began))
    return int(any(outcome.code for outcome in outcomes))


if __name__ == "__main__":
    sys.exit(main())
