"""The command line as somebody uses it."""

import pytest
from typer.testing import CliRunner

from lenskeep.cli import app


@pytest.fixture
def run(tmp_path, monkeypatch):
    monkeypatch.setenv("LENSKEEP_HOME", str(tmp_path / "home"))
    monkeypatch.setenv("LENSKEEP_WORKERS", "0")

    def call(*words, code=0):
        result = CliRunner().invoke(app, [str(w) for w in words])
        assert result.exit_code == code, (result.output, result.exception)
        return result.output

    return call
