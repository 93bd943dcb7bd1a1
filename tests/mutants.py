"""How much of a small change to the core's arithmetic do its own tests notice?

`./run mutants` makes one small change at a time to a copy of the core (a sign, an operator, a comparison, a constant, a
condition), runs the core's tests that reach the changed line, those of its texts with them, and counts the changes that no
test noticed. The sample is drawn by seed, so a run can be repeated; it takes far too long to be part of every test run.
A change inside a function is tried in a fork of a pytest that has collected its tests; one that acts when modules are imported,
in a pytest of its own.
"""

import argparse
import ast
import difflib
import itertools
import json
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from multiprocessing import get_context
from multiprocessing.connection import Connection
from pathlib import Path
from queue import SimpleQueue
from xml.etree import ElementTree

import coverage
from cosmic_ray.ast import ast_nodes, get_ast
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator

import changed_code

ROOT = Path(__file__).parent.parent
CORE = Path("src/sapolin/core")
TESTS = ("tests/core", "tests/golden", str(CORE))
"""The core's own tests, those of its texts, and the examples in its docstrings."""

OPERATORS = (
    *(
        f"ReplaceBinaryOperator_{pair}"
        for pair in ("Add_Sub", "Sub_Add", "Mul_Div", "Div_Mul", "FloorDiv_Div", "Pow_Mul")
    ),
    *(f"ReplaceComparisonOperator_{pair}" for pair in ("Eq_NotEq", "NotEq_Eq", "Lt_GtE", "LtE_Gt", "Gt_LtE", "GtE_Lt")),
    *(f"ReplaceComparisonOperator_{pair}" for pair in ("Lt_LtE", "LtE_Lt", "Gt_GtE", "GtE_Gt", "Is_IsNot", "IsNot_Is")),
    *("ReplaceUnaryOperator_USub_UAdd", "ReplaceUnaryOperator_Delete_Not", "AddNot", "NumberReplacer"),
    *("ReplaceAndWithOr", "ReplaceOrWithAnd", "ReplaceTrueWithFalse", "ReplaceFalseWithTrue"),
    *("ReplaceBreakWithContinue", "ReplaceContinueWithBreak", "ZeroIterationForLoop"),
)
"""The kinds of change, by their names in cosmic-ray: those a slip of the hand would make."""

STRICT = ("formula/lye.py", "formula/composition.py", "formula/verify.py", "bar/uncertainty.py", "production/")
"""Where a slip could hurt someone: at least 98 % are to be noticed here, 90 % elsewhere."""

GUARDED_ELSEWHERE = re.compile(r"(strict|min_length|max_length|maxsize)=$")
"""What no test of the core has to notice: a guard against lengths that never differ, how much may be sent, which the published
schemas hold, and how many results are remembered."""
BY_NAME_ONLY = "/,"
"""The star of a signature after which parameters go by name, turned by the kind of change meant for products: every call that
was right stays so."""

READ_ALL = ("tests/core/test_house.py", "tests/golden/test_published.py")
"""They look at every module, and at what is published of it, whether they run any of it or not."""
REMEMBERED_BELOW = 12
"""Fewer tests than this may have seen a line only because it remembers what it made."""
TOLD_EVERY = 50
"""After so many changes it is said how far the run is."""
LONGEST_S = 240
"""How long the tests of one change may take, unless told otherwise."""


@cache
def source(path: Path) -> str:
    """A file of the core as it was when the run began."""
    return (ROOT / path).read_text()


@dataclass(frozen=True)
class Mutant:
    """One small change: the `occurrence`-th place in `path` where `operator` can change something, on `line`."""

    path: Path
    operator: str
    occurrence: int
    line: int
    column: int

    @property
    def is_strict(self) -> bool:
        return any(str(self.path.relative_to(CORE)).startswith(place) for place in STRICT)

    def code(self) -> str | None:
        return mutate_code(source(self.path), get_operator(f"core/{self.operator}")(), self.occurrence)

    def difference(self) -> str:
        was, now = source(self.path).splitlines(), (self.code() or "").splitlines()
        lines = [line for line in difflib.unified_diff(was, now, lineterm="", n=0) if line[:3] not in ("---", "+++")]
        return f"{self.path.relative_to(CORE)}:{self.line}  {self.operator}\n" + "\n".join(lines[1:])


def without_annotations(code: str) -> str:
    """The code as it runs: what is written in an annotation changes nothing."""
    tree = ast.parse(code)
    for node in ast.walk(tree):
        if isinstance(node, ast.arg | ast.AnnAssign):
            node.annotation = ast.Constant(0)
        elif isinstance(node, ast.FunctionDef):
            node.returns = None
    return ast.unparse(tree)


def every_mutant(paths: Iterable[Path]) -> Iterator[Mutant]:
    for path in paths:
        tree = get_ast(source(path))
        for name in OPERATORS:
            operator = get_operator(f"core/{name}")()
            places = (start for node in ast_nodes(tree) for start, _ in operator.mutation_positions(node))
            for occurrence, (line, column) in enumerate(places):
                yield Mutant(path, name, occurrence, line, column)


def sample(mutants: Iterable[Mutant], count: int, dice: random.Random) -> list[Mutant]:
    """`count` changes that do something, no two at one place."""
    places: dict[tuple[Path, int, int], list[Mutant]] = {}
    for mutant in mutants:
        places.setdefault((mutant.path, mutant.line, mutant.column), []).append(mutant)
    order = sorted(places)
    dice.shuffle(order)
    chosen: list[Mutant] = []
    for place in order:
        if len(chosen) == count:
            break
        mutant = dice.choice(places[place])
        changed = mutant.code()
        if changed is None:
            continue
        line = changed.splitlines()[mutant.line - 1]
        if GUARDED_ELSEWHERE.search(line[: mutant.column]) or line[mutant.column :].startswith(BY_NAME_ONLY):
            continue
        try:
            runs = without_annotations(changed) != without_annotations(source(mutant.path))
        except SyntaxError:
            continue
        if runs:
            chosen.append(mutant)
    return chosen


def pytest(tree: Path, *arguments: str, **options: object) -> "subprocess.CompletedProcess[str]":
    command = [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", *arguments]
    environment = {**os.environ, "PYTHONPATH": f"{tree / 'src'}:{tree / 'tests'}", "PYTHONDONTWRITEBYTECODE": "1"}
    return subprocess.run(command, cwd=tree, env=environment, capture_output=True, text=True, **options)  # type: ignore[call-overload]


def copy_of_tree(into: Path) -> Path:
    into.mkdir()
    for part in ("src", "tests", "docs"):
        shutil.copytree(ROOT / part, into / part, ignore=shutil.ignore_patterns("__pycache__", ".hypothesis", "*.png"))
    shutil.copy(ROOT / "pyproject.toml", into)
    return into


@cache
def importing(path: Path, where: Path) -> frozenset[Path]:
    """The files below `where` that import from this one, also through the front of its room."""
    module = ".".join(path.with_suffix("").parts[1:]).removesuffix(".__init__")
    imports = re.compile(rf"^ *(from|import) {re.escape(module)} ", re.MULTILINE)
    found = {file.relative_to(ROOT) for file in (ROOT / where).rglob("*.py") if imports.search(file.read_text())}
    in_core = found if where == CORE else importing(path, CORE)
    return frozenset(found.union(*(importing(one, where) for one in in_core if one.name == "__init__.py")))


class Reach:
    """Which tests reach which line, and how long each takes: measured once by running all of them unchanged."""

    def __init__(self, tree: Path, workers: int) -> None:
        self.tree = tree
        report = tree / "durations.xml"
        ran = pytest(
            tree, *TESTS, "-n", str(workers), "--cov", str(CORE), "--cov-context", "test",
            "--cov-report", "", f"--junitxml={report}", "--override-ini", "junit_family=legacy",
        )  # fmt: skip
        if ran.returncode:
            raise SystemExit(f"the tests fail before anything is changed:\n{ran.stdout[-3000:]}")
        self.data = coverage.CoverageData(str(tree / ".coverage"))
        self.data.read()
        self.by_path = {
            Path(file).relative_to(tree): self.data.contexts_by_lineno(file) for file in self.data.measured_files()
        }
        self.seconds = durations(report)

    def tests(self, mutant: Mutant) -> list[str]:
        """The tests that run the changed line, quickest first. A line that runs once and is remembered is reached by others
        than those that it was seen with: then all tests that reach its file. What is declared when modules are imported is
        noticed first by the files of tests that name its module, then by all that reach a file that imports it."""
        found = {context.split("|")[0] for context in self.by_path.get(mutant.path, {}).get(mutant.line, []) if context}
        is_declared = self.runs_at_import(mutant)
        files = [mutant.path, *(importing(mutant.path, CORE) if is_declared else ())]
        names = found if len(found) >= REMEMBERED_BELOW else set[str]().union(*map(self.of_file, files))
        ordered = sorted(names, key=lambda name: (self.seconds.get(name.split("::")[-1], 0.0), name))
        first = [str(file) for place in TESTS[:2] for file in sorted(importing(mutant.path, Path(place)))]
        return [*READ_ALL, *first, *ordered] if is_declared else ordered

    def of_file(self, path: Path) -> set[str]:
        contexts = self.by_path.get(path, {}).values()
        return {context.split("|")[0] for found in contexts for context in found if context}

    def runs_at_import(self, mutant: Mutant) -> bool:
        return "" in self.by_path.get(mutant.path, {}).get(mutant.line, [])


def durations(report: Path) -> dict[str, float]:
    return {case.attrib["name"]: float(case.attrib["time"]) for case in ElementTree.parse(report).iter("testcase")}


@dataclass(frozen=True)
class Worker:
    """A tree of its own, and a pytest that waits there."""

    tree: Path
    waiting: Connection

    def notices(self, mutant: Mutant, reach: Reach, longest_s: float) -> bool:
        tests, code = reach.tests(mutant), mutant.code() or ""
        if not tests:
            return False
        if not reach.runs_at_import(mutant) and changed_code.functions_changed(source(mutant.path), code):
            self.waiting.send(changed_code.Change(self.tree / mutant.path, code, tests, longest_s))
            return bool(self.waiting.recv())
        return is_noticed_anew(code, self.tree / mutant.path, tests, self.tree, longest_s)


def started(tree: Path) -> Worker:
    here, there = get_context("spawn").Pipe()
    get_context("spawn").Process(target=changed_code.serve, args=(tree, TESTS, there), daemon=True).start()
    there.close()  # Without a writer left, waiting for a pytest that could not start ends with an EOFError.
    here.recv()
    return Worker(tree, here)


def is_noticed_anew(code: str, target: Path, tests: list[str], tree: Path, longest_s: float) -> bool:
    was = target.read_text()
    target.write_text(code)
    listed = tree / "chosen.txt"
    listed.write_text("\n".join(tests))
    try:
        return pytest(tree, "-x", f"@{listed}", timeout=longest_s + changed_code.PATIENCE_S).returncode != 0
    except subprocess.TimeoutExpired:
        return False
    finally:
        target.write_text(was)


def main() -> int:
    parser = argparse.ArgumentParser(prog="./run mutants", description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("--count", type=int, default=150, help="changes tried in the whole core")
    parser.add_argument(
        "--strict", type=int, default=100, help="changes tried in lye, composition, uncertainty, production"
    )
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", default="", help="only files whose path in the core starts with this")
    parser.add_argument("--workers", type=int, default=os.cpu_count() or 1)
    parser.add_argument(
        "--longest", type=float, default=LONGEST_S, metavar="S",
        help="seconds of tests for one change; what they have not noticed by then counts as not noticed",
    )  # fmt: skip
    parser.add_argument("--list", type=Path, help="write what was not noticed to this file as well")
    options = parser.parse_args()

    dice = random.Random(options.seed)
    paths = sorted(path.relative_to(ROOT) for path in (ROOT / CORE).rglob("*.py"))
    everything = [m for m in every_mutant(paths) if str(m.path.relative_to(CORE)).startswith(options.only)]
    drawn = {"strict": sample((m for m in everything if m.is_strict), options.strict, dice)}
    drawn["whole core"] = sample(everything, options.count, dice)
    unnoticed: dict[str, list[Mutant]] = {name: [] for name in drawn}
    done = itertools.count(1)

    with tempfile.TemporaryDirectory(prefix="sapolin-mutants-") as scratch:
        trees = [copy_of_tree(Path(scratch) / str(number)) for number in range(options.workers)]
        print("Running the unchanged tests once, to see which reach which line ...", flush=True)
        reach = Reach(trees[0], options.workers)
        workers: SimpleQueue[Worker] = SimpleQueue()
        for tree in trees:
            workers.put(started(tree))

        def tried(name: str, mutant: Mutant) -> None:
            worker = workers.get()
            try:
                noticed = worker.notices(mutant, reach, options.longest)
            finally:
                workers.put(worker)
            if not noticed:
                unnoticed[name].append(mutant)
                print(f"not noticed: {mutant.difference()}\n", flush=True)
            if (number := next(done)) % TOLD_EVERY == 0:
                print(f"{number} of {sum(map(len, drawn.values()))} tried\n", flush=True)

        with ThreadPoolExecutor(options.workers) as pool:
            list(pool.map(lambda pair: tried(*pair), [(name, m) for name, mutants in drawn.items() for m in mutants]))

    for name, mutants in drawn.items():
        noticed = len(mutants) - len(unnoticed[name])
        print(
            f"{name}: {noticed} of {len(mutants)} noticed, {noticed / max(1, len(mutants)):.1%} (seed {options.seed})"
        )
    if options.list:
        options.list.write_text(json.dumps({n: [m.difference() for m in ms] for n, ms in unnoticed.items()}, indent=1))
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
