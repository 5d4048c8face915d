"""Runs every check and test in parts: beside each other as far as the processors go, each once what it needs is there.

Called by ./test, which has set Python up. A part's output lies in var/parts; that of one that failed is printed.
The last line says how many tests passed, failed and were skipped, and how long each part took.
"""

import os
import queue
import re
import signal
import subprocess
import sys
import threading
import time
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

ROOT = Path(__file__).parent.parent
VAR = ROOT / "var"
LOGS = VAR / "parts"
PYTHON = str(ROOT / ".venv/bin/python")
# What waits for pages, workers and limits of time leaves a processor to others for a part of its time. What only
# computes gives way to it.
CAPACITY = float(os.environ.get("IDLE_SHIMMER_TEST_CAPACITY", 1.6 * (os.cpu_count() or 2)))
COMPUTES, WAITS = 1.0, 0.7
GIVES_WAY = ("nice", "-n", "10")
_COUNTED = re.compile(r"(\d+) (passed|failed|skipped|errors?)\b")


@dataclass(frozen=True)
class Part:
    """A command, the parts that must be done before it, and the share of a processor that it takes."""

    name: str
    command: str
    needs: tuple[str, ...] = ()
    load: float = COMPUTES
    variables: dict[str, str] = field(default_factory=dict)
    is_test: bool = False


def set_up(function: str) -> str:
    """Return the command that runs a function of ``scripts/setup.sh``."""
    return f"source scripts/setup.sh; {function}"


def pytest(
    name: str, paths: str, load: float, needs: tuple[str, ...], options: str = "", alone: str = ""
) -> Part:
    """Return a part of the tests, with a database and a data folder of its own.

    ``alone`` is the name of a database server of its own, for tests that restart it.
    """
    variables = {"IDLE_SHIMMER_TEST_PART": name, "IDLE_SHIMMER_DATA": str(VAR / f"test-{name}")}
    if alone:
        variables["PG_NAME"] = f"postgres-{alone}"
    command = set_up(f"test_server; {PYTHON} -m pytest -q -p no:benchmark {options} {paths}")
    return Part(name, command, needs, load, variables, is_test=True)


def web(command: str) -> str:
    """Return a command that runs in the folder of the page."""
    return f"source scripts/setup.sh; setup_node; cd web && {command}"


CLIENT = (
    "npx --no-install openapi-typescript ../docs/openapi.json -o ../var/schema.d.ts"
    " && cmp ../var/schema.d.ts src/lib/api/generated/schema.d.ts"
)
LOCKS = (
    "! grep -El 'https?://' requirements.lock scripts/*.lock && ! grep -l '\"resolved\"'"
    " web/package-lock.json"
)
KERNELS = ("kernels",)
SERVED = ("kernels", "machine", "demo")
BROWSED = (*SERVED, "pages")
CHECKED = (
    "tests/core/kernels tests/core/geometry/test_geometry.py tests/core/test_framing.py"
    " -m 'not slow'"
)
# In the order in which they are begun, as soon as what they need is done: what others wait for, then the longest.
PARTS = [
    Part("kernels", set_up("compile_kernels; kernels_ready")),
    Part("node", set_up("setup_front_end")),
    Part("machine", set_up("test_server && setup_browser"), load=WAITS),
    Part("pages", set_up("setup_pages"), ("node",)),
    Part("demo", f"{PYTHON} -m scripts.draw_demo", KERNELS),
    Part("beats", ".venv/bin/idle-shimmer warm --beats", KERNELS),
    pytest("browser a-h", "tests/browser/test_[a-h]*.py", WAITS, BROWSED),
    pytest("browser i-z", "tests/browser/test_[i-z]*.py", WAITS, BROWSED),
    pytest("jobs", "tests/jobs", WAITS, SERVED),
    pytest("faults", "tests/faults", WAITS, SERVED, alone="faults"),
    pytest("core", "tests/core", COMPUTES, (*KERNELS, "beats"), "--ignore tests/core/frame"),
    pytest("frames", "tests/core/frame tests/book", COMPUTES, (*KERNELS, "demo")),
    pytest("api", "tests/api", COMPUTES, (*SERVED, "beats")),
    pytest("files that leave", "tests/output tests/media", COMPUTES, (*KERNELS, "demo", "beats")),
    Part(
        "checked",
        f"{PYTHON} -m pytest -q -p no:benchmark {CHECKED}",
        (),
        COMPUTES,
        {"IDLE_SHIMMER_CHECKED": "1"},
        is_test=True,
    ),
    Part("mypy", ".venv/bin/mypy"),
    Part("eslint", web("npm run --silent lint"), ("node",)),
    Part("svelte-check", web("npm run --silent check"), ("node", "pages")),
    Part("vitest", web("npm run --silent test"), ("node", "svelte-check")),
    Part("client", web(CLIENT), ("node",)),
    Part("ruff", ".venv/bin/ruff check . && .venv/bin/ruff format --check ."),
    Part(
        "house",
        f"{PYTHON} scripts/house.py && {PYTHON} -m scripts.house_plan --check && .venv/bin/lint-imports",
    ),
    Part("API description", f"{PYTHON} scripts/write_openapi.py --check"),
    Part("limits", f"{PYTHON} -m scripts.limits_table --check"),
    Part("lock files", LOCKS),
]


def others() -> Part:
    """Return the part with every folder of tests that no other part names."""
    named = " ".join(part.command for part in PARTS if part.is_test)
    left = [
        f"tests/{folder.name}"
        for folder in sorted((ROOT / "tests").iterdir())
        if any(folder.rglob("test_*.py")) and f"tests/{folder.name}" not in named
    ]
    left.remove("tests/benchmarks")
    return pytest("others", " ".join(left), WAITS, (*SERVED, "beats"))


@dataclass
class Outcome:
    """How a part went."""

    part: Part
    code: int
    seconds: float
    processor_s: float = 0.0

    @property
    def log(self) -> str:
        """What it wrote."""
        file = log_of(self.part)
        return file.read_text(encoding="utf-8", errors="replace") if file.exists() else ""


def log_of(part: Part) -> Path:
    """Return the file of a part's output."""
    return LOGS / f"{part.name.replace(' ', '-')}.log"


class Run:
    """Parts that run beside each other."""

    def __init__(self, parts: list[Part]) -> None:
        self._waiting, self._running = list(parts), dict[str, subprocess.Popen[bytes]]()
        self._ended: queue.Queue[Outcome] = queue.Queue()
        self._began = time.monotonic()
        self._loads = {part.name: part.load for part in parts}
        self._awaited = {name for part in parts for name in part.needs}
        self.outcomes: dict[str, Outcome] = {}

    def all(self) -> list[Outcome]:
        """Run everything; return how it went."""
        try:
            while self._waiting or self._running:
                self._start_what_can_start()
                if self._running:
                    self._take(self._ended.get())
        finally:
            for process in self._running.values():
                os.killpg(process.pid, signal.SIGKILL)
        return list(self.outcomes.values())

    def _start_what_can_start(self) -> None:
        for part in list(self._waiting):
            needed = [self.outcomes.get(name) for name in part.needs]
            if any(each is not None and each.code for each in needed):
                self._waiting.remove(part)
                self._take(Outcome(part, 1, 0.0))
                continue
            load = sum(self._loads[name] for name in self._running)
            if None not in needed and (not self._running or load + part.load <= CAPACITY):
                self._waiting.remove(part)
                self._start(part)

    def _start(self, part: Part) -> None:
        began = time.monotonic()
        gives_way = part.load == COMPUTES and part.name not in self._awaited
        with log_of(part).open("wb") as log:
            # Our own commands, written above.
            process = subprocess.Popen(  # noqa: S603
                [*(GIVES_WAY if gives_way else ()), "/bin/bash", "-c", part.command],
                cwd=ROOT,
                env=os.environ | part.variables,
                stdout=log,
                stderr=subprocess.STDOUT,
                stdin=subprocess.DEVNULL,
                start_new_session=True,
            )
        self._running[part.name] = process

        def wait() -> None:
            _, status, used = os.wait4(process.pid, 0)
            code = process.returncode = os.waitstatus_to_exitcode(status)
            took = time.monotonic() - began
            self._ended.put(Outcome(part, code, took, used.ru_utime + used.ru_stime))

        threading.Thread(target=wait, daemon=True).start()

    def _take(self, outcome: Outcome) -> None:
        self._running.pop(outcome.part.name, None)
        self.outcomes[outcome.part.name] = outcome
        word = "FAILED" if outcome.code else "ok    "
        at = time.monotonic() - self._began
        figures = f"{outcome.seconds:.0f} s, {outcome.processor_s:.0f} of a processor"
        print(f"{at:5.0f} s  {word}  {outcome.part.name} ({figures})", flush=True)
        if outcome.code:
            print(outcome.log or "what it needs is missing: see above", flush=True)


def last_line(outcomes: list[Outcome], seconds: float) -> str:
    """Return how many tests passed, failed and were skipped, and how long each part took."""
    counted: Counter[str] = Counter()
    for outcome in outcomes:
        if outcome.part.is_test and outcome.log.strip():
            for count, word in _COUNTED.findall(outcome.log.strip().splitlines()[-1]):
                counted["failed" if word.startswith("error") else word] += int(count)
    parts = ", ".join(f"{each.part.name} {each.seconds:.0f} s" for each in outcomes)
    said = ", ".join(f"{counted[word]} {word}" for word in ("passed", "failed", "skipped"))
    return f"{said} in {seconds // 60:.0f} min {seconds % 60:.0f} s: {parts}"


def main() -> int:
    """Run every part."""
    LOGS.mkdir(parents=True, exist_ok=True)
    for old in LOGS.glob("*.log"):
        old.unlink()
    began = time.monotonic()
    outcomes = Run([*PARTS, others()]).all()
    print(last_line(outcomes, time.monotonic() - began))
    return int(any(outcome.code for outcome in outcomes))


if __name__ == "__main__":
    sys.exit(main())
