"""Changed code tried out: a run of pytest that has collected its tests once and waits for changes.

Each change is tried in a fork of it, where the functions of the changed file are given their new code in place, so that a
try takes as long as its tests do and starts at once. It is for code inside functions that nothing runs while modules are
imported; whoever asks must know (`functions_changed`).
"""

import functools
import gc
import os
import select
import signal
import sys
import time
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from inspect import CO_NEWLOCALS
from multiprocessing.connection import Connection
from pathlib import Path
from types import CodeType, FunctionType

import pytest
from _pytest.runner import runtestprotocol

__all__ = ["PATIENCE_S", "Change", "functions_changed", "serve"]

Place = tuple[str, int, int]
"""Name of a function, its line, and which of those of that name on that line it is."""

PATIENCE_S = 60
"""Tests that run so much longer than they were given have no end."""


@dataclass(frozen=True)
class Change:
    """One changed file of the tree, and the tests that are to notice it, by their ids, for `longest_s` at most."""

    path: Path
    code: str
    tests: Sequence[str]
    longest_s: float


def functions_of(code: CodeType) -> Iterator[CodeType]:
    for constant in code.co_consts:
        if isinstance(constant, CodeType):
            yield constant
            yield from functions_of(constant)


def by_place(code: str, name: str) -> dict[Place, CodeType]:
    seen: Counter[tuple[str, int]] = Counter()
    found = {}
    for function in functions_of(compile(code, name, "exec")):
        key = (function.co_qualname, function.co_firstlineno)
        found[(*key, seen[key])] = function
        seen[key] += 1
    return found


def without_functions(code: CodeType) -> CodeType:
    """What runs when the module is imported: bodies of classes, but not of functions, which are left out."""

    def kept(constant: object) -> object:
        if not isinstance(constant, CodeType):
            return constant
        return None if constant.co_flags & CO_NEWLOCALS else without_functions(constant)

    return code.replace(co_consts=tuple(map(kept, code.co_consts)))


def functions_changed(was: str, now: str) -> bool:
    """Whether all that differs stands inside functions."""
    before, after = (without_functions(compile(code, "changed", "exec")) for code in (was, now))
    return before == after


def put_in(path: Path, changed: str) -> None:
    """Give the functions that were imported from `path` the code they have in `changed`, and forget what was remembered."""
    was, now = by_place(path.read_text(), str(path)), by_place(changed, str(path))
    new = {id_of(code): now[place] for place, code in was.items() if place in now}
    for thing in gc.get_objects():
        if isinstance(thing, FunctionType) and thing.__code__.co_filename == str(path):
            code = new.get(id_of(thing.__code__))
            if code is not None and len(code.co_freevars) == len(thing.__code__.co_freevars):
                thing.__code__ = code
        elif isinstance(thing, functools._lru_cache_wrapper):
            thing.cache_clear()


def id_of(code: CodeType) -> tuple[object, ...]:
    """What tells one function of a file from the others: where each of its instructions stands."""
    return (code.co_qualname, code.co_firstlineno, tuple(code.co_positions())[:3], code.co_code)


class Waiting:
    """Instead of running what it collected, pytest tries what it is sent, and sends back whether a test noticed it."""

    def __init__(self, connection: Connection) -> None:
        self.connection = connection

    @pytest.hookimpl(tryfirst=True)
    def pytest_runtestloop(self, session: pytest.Session) -> bool:
        items = {item.nodeid: item for item in session.items}
        gc.freeze()
        self.connection.send(sorted(items))
        while True:
            change = self.connection.recv()
            if change is None:
                return True
            self.connection.send(forked(change, [items[name] for name in change.tests if name in items]))


def forked(change: Change, items: list[pytest.Item]) -> bool:
    """Whether one of the tests fails in a fork with the changed code, or does not end."""
    child = os.fork()
    if child == 0:
        os._exit(fails(change, items))
    watched = os.pidfd_open(child)
    try:
        ended, _, _ = select.select([watched], [], [], change.longest_s + PATIENCE_S)
        if not ended:
            os.kill(child, signal.SIGKILL)
        _, status = os.waitpid(child, 0)
        return status != 0
    finally:
        os.close(watched)


def fails(change: Change, items: list[pytest.Item]) -> bool:
    nothing = os.open(os.devnull, os.O_WRONLY)
    os.dup2(nothing, 1)
    os.dup2(nothing, 2)
    until = time.monotonic() + change.longest_s
    try:
        gc.unfreeze()
        put_in(change.path, change.code)
        for number, item in enumerate(items):
            if time.monotonic() > until:
                return False
            after = items[number + 1] if number + 1 < len(items) else None
            if any(report.failed for report in runtestprotocol(item, log=False, nextitem=after)):
                return True
    except BaseException:
        return True
    return False


def serve(tree: Path, paths: Sequence[str], connection: Connection) -> None:
    """Collect the tests of `paths` in `tree`, which holds `src` and `tests`, and wait for changes until told None."""
    os.chdir(tree)
    sys.path[:0] = [str(tree / "src"), str(tree / "tests")]
    sys.dont_write_bytecode = True
    sys.stdout = open(os.devnull, "w")  # noqa: SIM115
    pytest.main(["-q", "-p", "no:cacheprovider", "-p", "no:xdist", *paths], plugins=[Waiting(connection)])
