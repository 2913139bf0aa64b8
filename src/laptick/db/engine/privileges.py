"""Root is for setting up. Started by root, everything goes on as a user made for it; where that user cannot reach what
it needs, the database alone does, or nothing: then it is said."""

from __future__ import annotations

import os
import pwd
import shutil
import subprocess
from collections.abc import Callable, Iterable
from pathlib import Path

#: The user's name.
USER = "laptick"

#: A user's number and its group's.
Ids = tuple[int, int]


def drop_privileges(folder: Path, needed: Iterable[Path], say: Callable[[str], None]) -> Ids | None:
    """Makes this process the user's, and ``folder`` with all that is in it. ``needed``: what else it has to read.

    Gives the user's numbers where only the database can be started as it, else ``None``.
    """
    if os.getuid() != 0:
        return None
    ids = _user()
    if ids is None:
        say(f"user: there is no user “{USER}” here and none could be made; everything runs as root.")
        return None
    if not _reaches(ids, [folder.resolve().parent], os.X_OK):
        say(f"user: {USER} cannot reach {folder}, so everything runs as root. LAPTICK_HOME can name another folder.")
        return None
    _give(folder, ids)
    if not _reaches(ids, needed, os.R_OK | os.X_OK):
        say(f"user: the database runs as {USER}; the rest as root, for {USER} cannot reach the program itself.")
        return ids
    become(ids)
    os.environ["HOME"] = str(folder)  # root's own could not be read
    say(f"user: everything runs as {USER} from here on, not as root.")
    return None


def become(ids: Ids) -> None:
    """Makes this process another user's, for good."""
    os.setgroups([])
    os.setgid(ids[1])
    os.setuid(ids[0])


def _user() -> Ids | None:
    for _ in range(2):
        try:
            found = pwd.getpwnam(USER)
            return found.pw_uid, found.pw_gid
        except KeyError:
            tool = shutil.which("useradd", path="/usr/sbin:/sbin:/usr/bin")
            if tool is None:
                return None
            command = [tool, "--system", "--user-group", "--no-create-home", "--shell", "/usr/sbin/nologin", USER]
            subprocess.run(command, capture_output=True, check=False)
    return None


def _reaches(ids: Ids, paths: Iterable[Path], how: int) -> bool:
    """Can the user get at all of these? Asked by a process that is the user's."""
    told = [str(path) for path in paths]
    child = os.fork()
    if child == 0:
        try:
            become(ids)
            os._exit(0 if all(os.access(path, how) for path in told) else 1)
        finally:
            os._exit(1)
    return os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]) == 0


def _give(folder: Path, ids: Ids) -> None:
    """The folder and everything in it becomes the user's; links are not followed."""
    os.chown(folder, *ids)
    for root, folders, files in os.walk(folder):
        for name in (*folders, *files):
            os.chown(os.path.join(root, name), *ids, follow_symlinks=False)
