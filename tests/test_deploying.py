"""The files for deploying: they parse, and what they start is there."""

import configparser
import re
import shlex
import shutil
import subprocess
from pathlib import Path

import pytest
from typer.main import get_command
from typer.testing import CliRunner

from idle_shimmer.cli import app
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
        program, command, *options = shlex.split(service[name])
        assert program.endswith("/idle-shimmer")
        known = get_command(app).commands[command]  # type: ignore[attr-defined]
        names = {option for each in known.params for option in each.opts}
        assert {option for option in options if option.startswith("--")} <= names
        assert CliRunner().invoke(app, [command, "--help"]).exit_code == 0


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
