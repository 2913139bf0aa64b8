"""What may know what. Core is pure: no web, no SQL, no files, no clock; data flows one way."""

from __future__ import annotations

import ast
import subprocess
import sys
from pathlib import Path

import pytest

SOURCE = Path(__file__).resolve().parent.parent / "src" / "laptick"

CORE_FORBIDDEN = {
    "fastapi", "starlette", "pydantic", "pymysql", "uvicorn", "lxml", "mido", "os", "io", "pathlib", "time",
    "datetime", "random", "secrets", "socket", "subprocess", "tempfile", "shutil", "logging", "json", "sqlite3",
}  # fmt: skip
CORE_FORBIDDEN_CALLS = {"open", "input", "print", "exec", "eval", "__import__"}

#: Folder → laptick packages it must not import.
ONE_WAY = {
    "core": {"laptick.formats", "laptick.db", "laptick.api", "laptick.cli", "laptick.run"},
    "formats": {"laptick.db", "laptick.api", "laptick.cli", "laptick.run"},
    "db": {"laptick.formats", "laptick.api", "laptick.cli", "laptick.run"},
    "api": {"laptick.cli", "laptick.run"},
}


def imports(path: Path) -> set[str]:
    names: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            names.add(node.module or "")
            names |= {f"{node.module}.{alias.name}" for alias in node.names}
    return names


def files(folder: str) -> list[Path]:
    found = sorted((SOURCE / folder).rglob("*.py"))
    assert found
    return found


@pytest.mark.parametrize("path", files("core"), ids=lambda p: p.name)
def test_core_is_pure(path):
    assert not {name.partition(".")[0] for name in imports(path)} & CORE_FORBIDDEN
    calls = {
        node.func.id
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name)
    }
    assert not calls & CORE_FORBIDDEN_CALLS


@pytest.mark.parametrize("folder", ONE_WAY)
def test_data_flows_one_way(folder):
    for path in files(folder):
        wrong = {n for n in imports(path) for banned in ONE_WAY[folder] if n == banned or n.startswith(banned + ".")}
        assert not wrong, path


def test_sql_lives_in_db_alone():
    for path in SOURCE.rglob("*.py"):
        if "db" not in path.parts:
            assert "pymysql" not in imports(path), path
            assert "cursor.execute" not in path.read_text(encoding="utf-8"), path


def test_importing_core_loads_no_web_and_no_database():
    code = (
        "import sys, laptick.core.judging.verdict, laptick.core.student.student, laptick.core.play_along.scheduling\n"
        "print(sorted({m.partition('.')[0] for m in sys.modules} & {'fastapi', 'pydantic', 'pymysql', 'lxml', 'mido'}))"
    )
    result = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert result.stdout.strip() == "[]"


def test_every_module_says_what_it_is_for():
    for path in SOURCE.rglob("*.py"):
        assert ast.get_docstring(ast.parse(path.read_text(encoding="utf-8"))), path


def test_the_seeded_generator_is_the_only_randomness_in_core():
    users = [path.name for path in files("core") if "default_rng" in path.read_text(encoding="utf-8")]
    assert users == ["student.py"]
