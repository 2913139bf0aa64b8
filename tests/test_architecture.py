"""What may know what. Core is pure: no web, no SQL, no files, no clock; data flows one way."""

from __future__ import annotations

import ast
import importlib.util
import re
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parent.parent
SOURCE = Path(__file__).resolve().parent.parent / "src" / "laptick"

CORE_FORBIDDEN = {
    "fastapi", "starlette", "pydantic", "pymysql", "uvicorn", "lxml", "mido", "os", "io", "pathlib", "time",
    "datetime", "random", "secrets", "socket", "subprocess", "tempfile", "shutil", "logging", "json", "sqlite3",
}  # fmt: skip
CORE_FORBIDDEN_CALLS = {"open", "input", "print", "exec", "eval", "__import__"}

#: Room → the rooms it may import besides itself (docs/architecture.md shows the same table). What is not named here
#: stands above all of them: the command line, the start of the application.
ROOMS: dict[str, str] = {
    "core.base": "",
    "core.score": "core.base",
    "core.counting": "core.base core.score",
    "core.editing": "core.base core.score",
    "core.rhythm": "core.base core.score core.counting",
    "core.play_along": "core.base core.score core.counting",
    "core.takes": "core.base core.score core.counting",
    "core.hearing": "core.base core.takes",
    "core.together": "core.base core.score core.counting core.rhythm",
    "core.following": "core.base core.score core.takes core.hearing",
    "core.measuring": "core.base core.score core.takes core.following core.together",
    "core.effects": "core.base core.score core.takes core.following core.measuring",
    "core.judging": "core.base core.score core.rhythm core.takes core.following core.measuring core.effects",
    "core.student": "core.base core.score core.takes core.measuring core.together",
    "core.practice": "core.base core.score core.counting core.rhythm core.together",
    "core.drills": "core.base core.score core.counting core.rhythm",
    "core.planning": "core.base core.practice",
    "formats.parts": "core",
    "formats.documents": "core",
    "formats.sound": "core",
    "formats.audio": "core formats.sound",
    "formats.midi": "core formats.parts",
    "formats.musicxml": "core formats.parts",
    "formats.musicxml_writing": "core formats.musicxml",
    "formats.pages": "core formats.musicxml formats.musicxml_writing",
    "formats": "core formats",  # what stands on top of its rooms
    "db.engine": "core.base",
    "db": "core.base db",
    "studio": "core formats db",
    "api.request": "core formats studio db",
    "api.schemas": "core formats studio",
    "api.views": "core formats studio api.request api.schemas",
    "api.routers": "core formats studio api.request api.schemas api.views",
    "api": "core formats studio db api",  # app.py
    "house": "core",
}

#: At most so many modules in one room.
MOST_FILES = 14

MODULES = {
    ".".join(path.relative_to(SOURCE).with_suffix("").parts).removesuffix(".__init__"): path
    for path in SOURCE.rglob("*.py")
}


def room_of(module: str) -> str | None:
    """The innermost room that a module lies in."""
    fitting = [room for room in ROOMS if module == room or module.startswith(room + ".")]
    return max(fitting, key=len, default=None)


def imported(path: Path) -> set[str]:
    """The modules of ours that a module imports, without the package's name."""
    found = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("laptick"):
            package = (node.module or "").removeprefix("laptick").removeprefix(".")
            for alias in node.names:
                whole = f"{package}.{alias.name}".strip(".")
                found.add(whole if whole in MODULES else package)
        elif isinstance(node, ast.Import):
            found |= {a.name.removeprefix("laptick.") for a in node.names if a.name.startswith("laptick.")}
    return found - {""}


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


@pytest.mark.parametrize("module", sorted(MODULES))
def test_a_room_knows_only_what_it_may(module):
    room = room_of(module)
    if room is None:
        return
    allowed = [room, *ROOMS[room].split()]
    for other in imported(MODULES[module]):
        assert any(other == one or other.startswith(one + ".") for one in allowed), f"{module} imports {other}"
        # What stands at the root of a folder of rooms is known by none of them.
        if room.count(".") == 1 and other.rpartition(".")[0] == room.partition(".")[0]:
            assert (SOURCE / other.replace(".", "/")).is_dir(), f"{module} imports {other}, which stands above it"


def test_every_room_of_the_source_is_in_the_table():
    packages = {".".join(path.parent.relative_to(SOURCE).parts) for path in SOURCE.rglob("__init__.py")} - {""}
    unknown = {package for package in packages if room_of(package) is None}
    assert unknown == {"core"}
    missing = {p for p in packages if p.startswith(("core.", "formats.")) and p.count(".") == 1} - ROOMS.keys()
    assert not missing


def test_rooms_do_not_know_each_other_in_circles():
    arrows = {
        room: {room_of(other) for m, p in MODULES.items() if room_of(m) == room for other in imported(p)}
        for room in ROOMS
    }
    seen: dict[str, int] = {}

    def visit(room: str, above: tuple[str, ...]) -> None:
        assert room not in above, f"a circle: {' → '.join([*above, room])}"
        if seen.setdefault(room, 0):
            return
        for other in arrows[room] - {room, None}:
            visit(other, (*above, room))
        seen[room] = 1

    for room in ROOMS:
        visit(room, ())


@pytest.mark.parametrize("root", ["src", "tests", "benchmarks", "tools", "web/src"])
def test_no_room_is_too_full(root):
    """At most fourteen files of code in a folder (tests stand by their subjects and may be more)."""
    most = MOST_FILES if root in ("src", "web/src") else 30
    full = {}
    for folder in {
        path.parent for path in (SOURCE.parents[1] / root).rglob("*") if path.suffix in (".py", ".ts", ".tsx")
    }:
        code = [p for p in folder.iterdir() if p.suffix in (".py", ".ts", ".tsx") and p.name != "__init__.py"]
        own = [p for p in code if ".test." not in p.name and not p.name.endswith(".d.ts")]
        if len(own) > most:
            full[str(folder)] = len(own)
    assert not full


def test_lines_of_the_interface_can_be_read():
    web = SOURCE.parents[1] / "web" / "src"
    long = [
        f"{path.name}:{number}"
        for path in web.rglob("*.ts*")
        if path.name != "schema.d.ts"
        for number, line in enumerate(path.read_text(encoding="utf-8").split("\n"), 1)
        if len(line) > 140
    ]
    assert not long


def test_functions_take_few_things():
    """Six or more things in a row are one thing that has no name yet. (The parameters of a route are those of its
    address.)"""
    wide = []
    for module, path in MODULES.items():
        if module.startswith("api.routers"):
            continue
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                names = [a.arg for a in (*node.args.posonlyargs, *node.args.args)]
                if len([name for name in names if name not in ("self", "cls")]) >= 6:
                    wide.append(f"{module}.{node.name}")
    assert not wide


def test_only_the_engine_commits():
    for module, path in MODULES.items():
        text = path.read_text(encoding="utf-8")
        if module.startswith("db.") and not module.startswith("db.engine"):
            assert not re.search(r"\bcommit\w*\(|START TRANSACTION|ROLLBACK", text), module
            assert "transaction(" not in text, module


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


BY_COMMAND = sorted(path for folder in ("benchmarks", "tools") for path in (ROOT / folder).rglob("*.py"))


def is_there(module: str, name: str) -> bool:
    found = importlib.import_module(module)
    if hasattr(found, name):
        return True
    return hasattr(found, "__path__") and importlib.util.find_spec(f"{module}.{name}") is not None


@pytest.mark.parametrize("path", BY_COMMAND, ids=lambda path: path.relative_to(ROOT).as_posix())
def test_what_is_run_by_command_takes_what_is_there(path):
    """Benchmarks are run by hand, and seldom: what they take from the source may have moved meanwhile."""
    taken = [
        (node.module, alias.name)
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.ImportFrom) and (node.module or "").split(".")[0] == "laptick"
        for alias in node.names
    ]
    assert [f"{module}.{name}" for module, name in taken if not is_there(module, name)] == []
