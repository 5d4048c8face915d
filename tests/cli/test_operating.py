"""Operating: examining an installation, backup and restore as docs/operating.md says."""

import json
import os
import re
import shutil
import subprocess
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import psycopg
import pytest
from fastapi.testclient import TestClient

from idle_shimmer.settings import settings
from tests.api.conftest import client, clip_ids, edit, files
from tests.api.edits.test_resources import save
from tests.conftest import ROOT
from tests.support.server import COMMAND, Application

__all__ = ["client", "clip_ids", "edit", "files"]
POSTGRES = os.environ.get("IDLE_SHIMMER_POSTGRES", "").split()


def doctor(**environment: str) -> tuple[int, dict[str, Any]]:
    """The exit code, and the findings by what was examined."""
    done = subprocess.run(
        [COMMAND, "doctor", "--json"],
        capture_output=True,
        text=True,
        env={**os.environ, **environment},
        cwd=ROOT,
    )
    return done.returncode, {each["what"]: each for each in json.loads(done.stdout)["findings"]}


def test_doctor_finds_nothing_wrong_where_nothing_is(client: TestClient, edit: dict) -> None:
    code, found = doctor()
    assert code == 0, found
    assert {name for name, each in found.items() if each["status"] == "failed"} == set()
    assert found["Workers"]["status"] == "warning"
    assert "every clip and render" in found["Files"]["message"]


def test_doctor_says_what_is_wrong_and_what_to_do(
    client: TestClient, edit: dict, tmp_path: Path
) -> None:
    nowhere = "postgresql://shimmer@127.0.0.1:1/nowhere_test"
    code, found = doctor(
        DATABASE_URL=nowhere, IDLE_SHIMMER_DATA=str(tmp_path / "x"), IDLE_SHIMMER_WEB=str(tmp_path)
    )
    assert code == 1
    assert "run ./start" in found["Pages"]["message"]
    assert "set IDLE_SHIMMER_DATA" in found["Data folder"]["message"]
    assert found["Database"]["status"] == "failed"
    assert "\n" not in found["Database"]["message"]
    code, found = doctor(IDLE_SHIMMER_DATA=str(tmp_path))
    assert code == 1
    assert re.match(r"3 clips and 0 renders have lost their file", found["Files"]["message"])


@pytest.fixture
def other_database() -> Iterator[str]:
    """The address of another empty database on the same server."""
    address = os.environ["DATABASE_URL"].rpartition("/")[0]
    name = "shimmer_restored_test"
    with psycopg.connect(settings().plain_database(), autocommit=True) as connection:
        connection.execute(f"DROP DATABASE IF EXISTS {name}")
        connection.execute(f"CREATE DATABASE {name}")
    yield f"{address}/{name}"
    with psycopg.connect(settings().plain_database(), autocommit=True) as connection:
        connection.execute(f"DROP DATABASE {name} WITH (FORCE)")


@pytest.mark.skipif(not POSTGRES, reason="the tools of the database server are not here")
def test_what_is_backed_up_is_there_after_restoring(
    client: TestClient,
    edit: dict,
    other_database: str,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """The commands of the page, as they stand there, onto another database and folder."""
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    save(client, cut, before=5, label="soften")
    before = client.get(f"/api/edits/{edit['id']}").json()
    monkeypatch.setenv("PATH", f"{POSTGRES[0]}:{os.environ['PATH']}")
    monkeypatch.setenv("PATH", f"{Path(COMMAND).parent}:{os.environ['PATH']}")
    backup, restore = commands_of_the_page()
    run_all(backup, tmp_path)
    data = tmp_path / "data"
    data.mkdir()
    monkeypatch.setenv("DATABASE_URL", other_database)
    monkeypatch.setenv("IDLE_SHIMMER_DATA", str(data))
    run_all(restore, tmp_path)
    with (
        Application(worker=False) as restored,
        httpx.Client(base_url=restored.address, trust_env=False, timeout=60) as api,
    ):
        after = api.get(f"/api/edits/{edit['id']}").json()
        assert after == before
        steps = api.get(f"/api/cuts/{cut['id']}/history").json()["steps"]
        assert [each["label"] for each in steps] == ["New cut", "soften"]
        clip = before["placed"][0]["clip"]["id"]
        assert api.get(f"/api/clips/{clip}/pictures/3.jpg").status_code == 200
    shutil.rmtree(data)


def commands_of_the_page() -> list[list[str]]:
    page = (ROOT / "docs" / "operating.md").read_text(encoding="utf-8")
    section = page[page.index("## Backup and restore") : page.index("## Moving")]
    return [
        block.strip().splitlines() for block in re.findall(r"```\n(.*?)```", section, re.DOTALL)
    ]


def run_all(lines: list[str], folder: Path) -> None:
    (settings().renders).mkdir(exist_ok=True)
    for line in lines:
        done = subprocess.run(
            ["bash", "-c", line], cwd=folder, capture_output=True, text=True, check=False
        )
        assert done.returncode == 0, (line, done.stdout, done.stderr)
