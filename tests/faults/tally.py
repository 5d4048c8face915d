"""Counts what happened to hostile input, for docs/reliability.md."""

import json
import os
import resource
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

# Where ``scripts/faults`` collects the counts; without it nothing is written.
FOLDER = os.environ.get("IDLE_SHIMMER_TALLY")
# How many times as long as in ./test everything is tried.
TIMES = int(os.environ.get("IDLE_SHIMMER_FAULTS_TIMES", "1"))


@dataclass
class Tally:
    """Numbers by what they count, of one kind of fault."""

    name: str
    counts: Counter[str] = field(default_factory=Counter)

    def add(self, what: str, number: int = 1) -> None:
        """Count ``number`` more."""
        self.counts[what] += number

    def save(self) -> None:
        """Write the counts, with the most memory that this process and its children took."""
        if FOLDER is None:
            return
        most = max(resource.getrusage(who).ru_maxrss for who in (_OWN, _CHILDREN))
        found = {"name": self.name, "counts": dict(self.counts), "most_memory_kb": most}
        path = Path(FOLDER) / f"{self.name}.json"
        path.write_text(json.dumps(found, indent=1) + "\n", encoding="utf-8")


_OWN, _CHILDREN = resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN
