"""The files for deploying: they parse, and what they start is there."""

import configparser
import re
import shlex
import shutil
import subprocess
from pathlib import Path

import pytest
import yaml
from typer.main import get_command
from typer.testing import CliRunner

from idle_shimmer.cli import app
from idle_shimmer.settings import Settings
from tests.conftest import ROOT

UNITS = sorted((ROOT / "deploy").glob("*.service"))


def parsed(unit: Path) -> configparser.ConfigParser:
    found = configparser.ConfigParser(interpolation=None, strict=False)
    found.optionxform = str  # type: ignore[assignment,method-assign]
    found.read(unit)
    return found


@pytest.mark.parametrize("unit", UNITS, ids=lambda each: each.name)
def test_units_start_commands_that_there_are(unit: Path) -> None:
    service = parsed(unit)["Service"]
    assert service["Restart"] == "always"
    for name in ("ExecStart", "ExecStartPre"):
        if name not in service:
            continue
        program, *command = shlex.split(service[name])
        assert program.endswith("/idle-shimmer")
        assert_is_known(command)


def assert_is_known(command: list[str]) -> None:
    """The command exists and has the options that are given."""
    name, *options = command
    known = get_command(app).commands[name]  # type: ignore[attr-defined]
    names = {option for each in known.params for option in each.opts}
    assert {option for option in options if option.startswith("--")} <= names
    assert CliRunner().invoke(app, [name, "--help"]).exit_code == 0


COMPOSE = ROOT / "deploy" / "compose.yaml"


def test_the_containers_run_commands_that_there_are_on_one_database_and_store() -> None:
    whole = yaml.safe_load(COMPOSE.read_text(encoding="utf-8"))
    services = whole["services"]
    own = {name: each for name, each in services.items() if name != "database"}
    assert set(own) == {"migrate", "server", "worker"}
    settings = {name.upper() for name in Settings.model_fields}
    for service in own.values():
        assert_is_known(service["command"])
        assert set(service["environment"]) <= settings
        folder = service["environment"]["IDLE_SHIMMER_STORE"].removeprefix("file://")
        assert [each.partition(":")[2] for each in service["volumes"]] == [folder]
        assert set(service["depends_on"]) <= set(services)
        assert (COMPOSE.parent / service["build"]["context"]).resolve() == ROOT
        assert (ROOT / service["build"]["dockerfile"]).is_file()
    assert "@database/" in own["server"]["environment"]["DATABASE_URL"]
    used = [each.partition(":")[0] for service in services.values() for each in service["volumes"]]
    assert set(used) == set(whole["volumes"])


def test_the_image_copies_what_there_is() -> None:
    lines = (COMPOSE.parent / "Dockerfile").read_text(encoding="utf-8").splitlines()
    copied = [
        line.split()[1:-1] for line in lines if line.startswith("COPY ") and "--from" not in line
    ]
    assert copied
    assert all((ROOT / name).exists() for names in copied for name in names)


def has_compose() -> bool:
    if shutil.which("docker") is None:
        return False
    return subprocess.run(["docker", "compose", "version"], capture_output=True).returncode == 0


@pytest.mark.skipif(not has_compose(), reason="Docker with compose is not installed")
def test_docker_accepts_the_compose_file() -> None:
    done = subprocess.run(
        ["docker", "compose", "--file", str(COMPOSE), "config", "--quiet"],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr


@pytest.mark.skipif(shutil.which("systemd-analyze") is None, reason="systemd is not installed")
@pytest.mark.parametrize("unit", UNITS, ids=lambda each: each.name)
def test_systemd_accepts_the_units(unit: Path) -> None:
    done = subprocess.run(
        ["systemd-analyze", "verify", str(unit)], capture_output=True, text=True, check=False
    )
    assert "Unknown" not in done.stderr


def test_the_proxy_passes_host_scheme_and_websockets_on() -> None:
    text = (ROOT / "deploy" / "nginx.conf").read_text(encoding="utf-8")
    assert text.count("{") == text.count("}")
    headers = dict(re.findall(r"proxy_set_header (\S+) (\S+);", text))
    assert headers["Host"] == "$host"
    assert headers["X-Forwarded-Proto"] == "https"
    assert headers["Upgrade"] == "$http_upgrade"
    (port,) = re.findall(r"proxy_pass http://127\.0\.0\.1:(\d+);", text)
    server = parsed(ROOT / "deploy" / "idle-shimmer-server.service")["Service"]["ExecStart"]
    assert f"--port {port}" in server
