"""Child processes that die with their parent, are started again when they end, and not too often."""

from __future__ import annotations

import ctypes
import os
import signal
import subprocess
from collections.abc import Callable, Mapping, Sequence

from laptick.core.base.units import Seconds
from laptick.db.engine.privileges import Ids, become

#: prctl(2): the signal that a process gets when its parent dies.
_PR_SET_PDEATHSIG = 1
_libc = ctypes.CDLL(None, use_errno=True)


class Backoff:
    """Waits that grow from ``first_s`` to ``most_s`` until something went well."""

    def __init__(self, first_s: Seconds = 0.05, most_s: Seconds = 10.0) -> None:
        self._first_s, self._most_s = first_s, most_s
        self._now_s = first_s

    def next_s(self) -> Seconds:
        now_s = self._now_s
        self._now_s = min(self._most_s, 2 * now_s)
        return now_s

    def reset(self) -> None:
        self._now_s = self._first_s


def with_parent(*, dies_by: int = signal.SIGTERM, nice: int = 0, user: Ids | None = None) -> Callable[[], None]:
    """What a child does before it becomes its program: it dies when its parent does (also when that is killed), runs
    ``nice`` lower, and as ``user`` (its number and its group's) where one is given."""
    parent = os.getpid()

    def prepare() -> None:
        if nice:
            os.nice(nice)
        if user is not None:
            become(user)
        _libc.prctl(_PR_SET_PDEATHSIG, dies_by, 0, 0, 0)  # after the user: changing that clears it
        if os.getppid() != parent:
            os._exit(1)

    return prepare


#: One thread for matrices, which are small here while others need the cores; and few heaps, for what is freed in one is
#: not used by the others.
ALL_CHILDREN = {"OPENBLAS_NUM_THREADS": "1", "MALLOC_ARENA_MAX": "2"}


class Child:
    """A program of ours that runs until it ends by itself or is told to."""

    def __init__(
        self, command: Sequence[str], environment: Mapping[str, str], *, nice: int = 0, pass_fds: Sequence[int] = ()
    ) -> None:
        self._process: subprocess.Popen[bytes] = subprocess.Popen(
            list(command),
            env={**os.environ, **ALL_CHILDREN, **environment},
            preexec_fn=with_parent(nice=nice),
            pass_fds=tuple(pass_fds),
            start_new_session=True,  # Ctrl-C reaches the parent alone, which tells its children in order
        )

    @property
    def pid(self) -> int:
        return self._process.pid

    @property
    def returncode(self) -> int | None:
        return self._process.poll()

    def ask_to_end(self) -> None:
        if self._process.poll() is None:
            self._process.terminate()

    def stop(self, wait_s: Seconds = 10.0) -> None:
        """Asks it to end, and ends it if it does not."""
        if self._process.poll() is None:
            self._process.terminate()
            try:
                self._process.wait(wait_s)
            except subprocess.TimeoutExpired:
                self._process.kill()
                self._process.wait()
