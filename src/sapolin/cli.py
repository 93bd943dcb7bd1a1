"""The command line: serve the application, calculate a document, write the published files."""

import json
import os
import socket
import sys
import webbrowser
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from threading import Thread
from typing import Annotated

import typer

__all__ = ["main"]

app = typer.Typer(
    add_completion=False,
    pretty_exceptions_enable=False,
    help="Sapolin: design, weigh and make soap.",
)

DEFAULT_PORT = 8719
LOOPBACK_HOSTS = ("127.0.0.1", "::1", "localhost")
BAD_INPUT = 2


SHIPPED_PAGES = Path(__file__).parent / "web"
"""The built front end, where the package brings it along."""


@app.callback(invoke_without_command=True)
def start(context: typer.Context) -> None:
    """Without a command: serve the application and open it in the browser."""
    if context.invoked_subcommand is None:
        serve(open_browser=True)


def _fail(message: str, code: int = 1) -> typer.Exit:
    typer.echo(f"sapolin: {message}", err=True)
    return typer.Exit(code)


def _free_socket(host: str, port: int) -> socket.socket:
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    # asyncio switches Nagle's delay off only where the protocol is named; left on, it costs 40 ms an answer.
    listener = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    if family == socket.AF_INET6:
        listener.setsockopt(socket.IPPROTO_IPV6, socket.IPV6_V6ONLY, 1)
    try:
        listener.bind((host, port))
        listener.listen()  # from here on a browser waits instead of being turned away
    except OSError as error:
        listener.close()
        raise _fail(f"cannot listen on {host}:{port} ({error.strerror}). Choose another with --port.") from error
    return listener


@app.command()
def serve(
    demo: Annotated[bool, typer.Option("--demo", help="Serve the demo world from its own database.")] = False,
    port: Annotated[int, typer.Option(min=0, max=65535, help="Port; 0 takes any free one.")] = DEFAULT_PORT,
    host: Annotated[
        str, typer.Option(help="Loopback address to listen on: 127.0.0.1, ::1 or localhost.")
    ] = "127.0.0.1",
    data: Annotated[Path | None, typer.Option(help="Directory for the data; the platform's own by default.")] = None,
    web: Annotated[
        Path | None, typer.Option(help="Directory of the built front end; the one that was installed by default.")
    ] = None,
    open_browser: Annotated[bool, typer.Option("--open", help="Open it in the browser.")] = False,
    network: Annotated[
        bool, typer.Option("--network", help="Listen on the local network too, for phones and tablets that you pair.")
    ] = False,
    network_port: Annotated[
        int | None, typer.Option(min=0, max=65535, help="Port on the network; the one after --port by default.")
    ] = None,
) -> None:
    """Serve the application until Ctrl+C."""
    from sapolin.api.app import create_app
    from sapolin.api.log import keep_log
    from sapolin.api.network.listening import NoNetworkError, open_network
    from sapolin.api.serving import serve_until_ended, serve_until_mended
    from sapolin.api.settings import Settings
    from sapolin.demo import world
    from sapolin.store.database import DatabaseFaultError, data_directory
    from sapolin.store.lock import DirectoryInUseError, DirectoryLock

    # What is written belongs to the maker alone.
    os.umask(0o077)
    if host not in LOOPBACK_HOSTS:
        raise _fail(
            f"{host} would open Sapolin to everyone who reaches this machine. Leave --host out; --network opens it to the "
            "phones and tablets that you pair, and to nobody else.", BAD_INPUT,
        )  # fmt: skip
    if web is None and SHIPPED_PAGES.is_dir():
        web = SHIPPED_PAGES
    listener = _free_socket(host, port)
    shown_host = f"[{host}]" if ":" in host else host
    address = f"http://{shown_host}:{listener.getsockname()[1]}/"
    try:
        database = data_directory(data) / ("demo.db" if demo else "sapolin.db")
        lock = DirectoryLock(database, address)
    except DirectoryInUseError as error:
        listener.close()
        if open_browser and error.address:
            webbrowser.open(error.address)
        raise _fail(str(error)) from error
    except DatabaseFaultError as error:
        listener.close()
        raise _fail(str(error)) from error
    keep_log(database)
    if open_browser:
        # The listener is bound already: a browser that is quicker than the server waits.
        Thread(target=webbrowser.open, args=(address,), daemon=True).start()
    while True:
        try:
            application = create_app(Settings(database=database, web=web), world if demo else None)
            break
        except DatabaseFaultError as error:
            typer.echo(f"sapolin: {error}", err=True)
            typer.echo(f"What can be done about it is at {address}", err=True)
            if not serve_until_mended(database, str(error), listener):
                listener.close()
                raise typer.Exit(1) from error
    beside = None
    if network:
        wanted = listener.getsockname()[1] + 1 if network_port is None else network_port
        try:
            beside = open_network(application, database, wanted, _free_socket)
        except NoNetworkError as error:
            raise _fail(str(error)) from error
    typer.echo(f"Sapolin{' (demo)' if demo else ''} is at {address}")
    if beside is not None:
        typer.echo(f"For phones and tablets: {', '.join(application.state.network.addresses)}")
        typer.echo("Pair them on the main screen: Guide, Tablets. Fingerprint of the certificate (SHA-256):")
        typer.echo(f"  {application.state.network.fingerprint}")
    typer.echo(f"Data: {database}")
    typer.echo("Ctrl+C stops it.")
    sys.stdout.flush()
    with lock:
        serve_until_ended(application, listener, beside)


DataOption = Annotated[Path | None, typer.Option(help="Directory for the data; the platform's own by default.")]
DemoOption = Annotated[bool, typer.Option("--demo", help="The demo world instead of your own data.")]


def _database(data: Path | None, demo: bool) -> Path:
    from sapolin.store.database import DatabaseFaultError, data_directory

    try:
        return data_directory(data) / ("demo.db" if demo else "sapolin.db")
    except DatabaseFaultError as error:
        raise _fail(str(error)) from error


@contextmanager
def _faults_in_words() -> Iterator[None]:
    from sapolin.store.archive import ArchiveError
    from sapolin.store.backup import BackupError
    from sapolin.store.database import DatabaseFaultError

    os.umask(0o077)
    try:
        yield
    except (ArchiveError, BackupError, DatabaseFaultError) as error:
        raise _fail(str(error)) from error


@app.command()
def backup(data: DataOption = None, demo: DemoOption = False) -> None:
    """Take a backup, checked, also while Sapolin runs; then list all."""
    from sapolin.store.backup import BackupError, Backups

    database = _database(data, demo)
    with _faults_in_words():
        if not database.is_file():
            raise BackupError(f"{database} is not there yet, so there is nothing to back up.")
        backups = Backups(database)
        backups.take("asked")
    typer.echo(f"Backups in {backups.directory}, the newest first:")
    for one in backups.all():
        second = ", in the second place too" if one.in_second_place else ""
        typer.echo(f"  {one.name}  {one.taken_at}  {one.reason}  {one.size_bytes / 1e6:.1f} MB{second}")


@app.command()
def restore(
    chosen: Annotated[
        str, typer.Argument(metavar="BACKUP", help="Name of a backup, or its file; `newest` takes the newest.")
    ],
    data: DataOption = None,
    demo: DemoOption = False,
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Only say what would change.")] = False,
) -> None:
    """Put a backup back while Sapolin does not run. What was there is kept."""
    from sapolin.services.safekeeping import put_back, what_would_change
    from sapolin.store.backup import BackupError, Backups
    from sapolin.store.database import bring_up_to_date
    from sapolin.store.doctor import examine, newest_sound_backup
    from sapolin.store.lock import DirectoryLock
    from sapolin.store.stores import open_stores

    database = _database(data, demo)
    with _faults_in_words():
        backups = Backups(database)
        file = newest_sound_backup(database) if chosen == "newest" else Path(chosen)
        if file is None:
            raise BackupError(f"There is no backup in {backups.directory}.")
        if not file.is_file():
            file = backups.path(chosen)
        is_sound = database.is_file() and examine(database).is_sound
        if dry_run:
            changes = what_would_change(database, file) if is_sound else ()
            typer.echo(
                f"{file.name}, put back over {database}:" if is_sound else f"{file.name} would become {database}."
            )
            for one in changes:
                typer.echo(
                    f"  {one.what}: {one.now} now, {one.then} then; {one.would_go} would go, {one.would_come} would come, "
                    f"{one.would_change} would change"
                )
            return
        with DirectoryLock(database, "the command line"):
            if is_sound:
                stores = open_stores(database)
                before = put_back(stores, database, file)
                stores.close()
                typer.echo(f"{file.name} is back. What was there is kept as {before.name}.")
            else:
                aside = backups.put_in_place(file)
                bring_up_to_date(database)
                kept = "" if aside is None else f" What was there is kept as {aside.name}."
                typer.echo(f"{file.name} is now {database}.{kept}")


@app.command()
def doctor(
    data: DataOption = None,
    demo: DemoOption = False,
    salvage: Annotated[bool, typer.Option("--salvage", help="Save what can be read into a fresh database.")] = False,
) -> None:
    """Look whether the data is whole, row by row. Exit code 1 on a fault."""
    from sapolin.store.doctor import examine
    from sapolin.store.doctor import salvage as save_what_can_be_read
    from sapolin.store.lock import DirectoryLock

    database = _database(data, demo)
    with _faults_in_words():
        if salvage:
            with DirectoryLock(database, "the command line"):
                seen, aside = save_what_can_be_read(database)
            typer.echo(f"What could be read is in {database}. The damaged file is kept as {aside.name}.")
        else:
            seen = examine(database)
    for one in seen.tables:
        if one.rows or one.unreadable:
            lost = f", {one.unreadable} cannot be read" if one.unreadable else ""
            typer.echo(f"  {one.what}: {one.rows}{lost}")
    for warning in seen.warnings:
        typer.echo(f"Look at this: {warning}")
    for fault in seen.faults:
        typer.echo(f"Fault: {fault}")
    typer.echo(
        f"{database} is {'whole' if seen.is_sound else 'not whole'}. Newest backup: {seen.newest_backup or 'none'}."
    )
    if not seen.is_sound:
        raise typer.Exit(1)


@app.command()
def export(
    target: Annotated[Path, typer.Argument(help="The zip to write.")], data: DataOption = None, demo: DemoOption = False
) -> None:
    """Write everything into one zip: records, documents, tables, pictures."""
    from sapolin.services.safekeeping import export_everything
    from sapolin.store.backup import BackupError
    from sapolin.store.stores import open_stores

    database = _database(data, demo)
    with _faults_in_words():
        if not database.is_file():
            raise BackupError(f"{database} is not there yet, so there is nothing to export.")
        stores = open_stores(database)
        try:
            with target.open("wb") as stream:
                export_everything(stores, database, stream)
        except OSError as error:
            raise BackupError(f"{target} cannot be written ({error.strerror}).") from error
        stores.close()
    typer.echo(f"Everything is in {target}, {target.stat().st_size / 1e6:.1f} MB.")


@app.command(name="import")
def bring_in(
    source: Annotated[Path, typer.Argument(help="A zip that `export` wrote.")],
    data: DataOption = None,
    demo: DemoOption = False,
) -> None:
    """Bring in what a zip holds and is not here yet, while Sapolin does not run."""
    from sapolin.services.safekeeping import import_archive
    from sapolin.store.archive import ArchiveError
    from sapolin.store.lock import DirectoryLock
    from sapolin.store.stores import open_stores

    database = _database(data, demo)
    with _faults_in_words(), DirectoryLock(database, "the command line"):
        stores = open_stores(database)
        try:
            with source.open("rb") as stream:
                done = import_archive(stores, database, stream)
        except OSError as error:
            raise ArchiveError(f"{source} cannot be read ({error.strerror}).") from error
        stores.close()
    for one in done.report.tables:
        typer.echo(f"  {one.table}: {one.added} added, {one.same} the same, {one.kept} kept as here")
    for renamed in done.report.renamed:
        typer.echo(f"  code {renamed}")
    typer.echo(f"To take it back: sapolin restore {done.undo.name}")


def _read(file: Path, most_bytes: int) -> bytes:
    """At most one byte more than `most_bytes` of a file, or of standard input."""
    try:
        if str(file) == "-":
            return sys.stdin.buffer.read(most_bytes + 1)
        with file.open("rb") as stream:
            return stream.read(most_bytes + 1)
    except OSError as error:
        raise _fail(f"cannot read {file}: {error.strerror}", BAD_INPUT) from error


@contextmanager
def _bad_input_in_words() -> Iterator[None]:
    from sapolin.core.quantities.diagnostics import FormulaError
    from sapolin.core.quantities.text import plain

    try:
        yield
    except FormulaError as error:
        for problem in error.problems:
            where = f"{problem.path}: " if problem.path else ""
            typer.echo(f"sapolin: {where}{plain(problem.message)} {plain(problem.remedy)}", err=True)
        raise typer.Exit(BAD_INPUT) from error


@contextmanager
def _quiet_output() -> Iterator[None]:
    """The solver greets on standard output, where only the answer belongs."""
    sys.stdout.flush()
    kept = os.dup(1)
    with open(os.devnull, "w") as nowhere:
        os.dup2(nowhere.fileno(), 1)
    try:
        yield
    finally:
        os.dup2(kept, 1)
        os.close(kept)


@app.command()
def calc(
    file: Annotated[Path, typer.Argument(help="A formula document, or - for standard input.")],
    explanation: Annotated[bool, typer.Option("--explanation", help="Add the explanation of every quantity.")] = False,
) -> None:
    """Calculate a formula document and print every result as JSON. Exit code 2 on bad input."""
    from sapolin.core.bar.calculation import calculate
    from sapolin.core.bar.explanations import explain, quantity_ids
    from sapolin.exchange.formula_document import MAX_DOCUMENT_BYTES, read_document

    content = _read(file, MAX_DOCUMENT_BYTES)
    with _bad_input_in_words():
        formula = read_document(content)
        result = calculate(formula).model_dump(mode="json")
    if explanation:
        result["explanations"] = {
            quantity: explain(formula, quantity).model_dump(mode="json") for quantity in quantity_ids(formula)
        }
    typer.echo(json.dumps(result, indent=2, ensure_ascii=False))


@app.command()
def solve(file: Annotated[Path, typer.Argument(help="A question document, or - for standard input.")]) -> None:
    """Find blends that answer a question and print them as JSON, the best first. Exit code 2 on bad input."""
    from time import monotonic

    from sapolin.core.optimise.solve import answer_solve
    from sapolin.exchange.question_document import MAX_BYTES, read_question, solve_answer_document

    content = _read(file, MAX_BYTES)
    with _bad_input_in_words(), _quiet_output():
        question = read_question(content)
        answer = solve_answer_document(question, answer_solve(question, clock=monotonic))
    typer.echo(json.dumps(answer, indent=2, ensure_ascii=False))


@app.command()
def swap(file: Annotated[Path, typer.Argument(help="A question document, or - for standard input.")]) -> None:
    """Find what can take the place of an oil and print it as JSON, the best first. Exit code 2 on bad input."""
    from sapolin.core.optimise.swap import answer_swap
    from sapolin.exchange.question_document import MAX_BYTES, read_swap_question, swap_answer_document

    content = _read(file, MAX_BYTES)
    with _bad_input_in_words():
        answer = swap_answer_document(answer_swap(read_swap_question(content)))
    typer.echo(json.dumps(answer, indent=2, ensure_ascii=False))


@app.command(name="catalogue")
def print_catalogue() -> None:
    """Print the catalogue's audit: listed values against those the composition gives. Exit code 1 on a fault."""
    from sapolin.core.materials.audit import audit
    from sapolin.core.materials.catalogue import catalogue

    rows = audit(catalogue())
    typer.echo(
        f"{'material':<24}{'kind':<14}{'SAP':>7}{'computed':>10}{'iodine':>9}{'computed':>10}{'acids %':>9}  note"
    )
    for row in rows:
        sap, iodine = (
            "-" if value is None else f"{value:.1f}" for value in (row.sap_computed_koh_mg_per_g, row.iodine_computed)
        )
        note = "FAULT: " + "; ".join(row.faults) if row.faults else row.reason
        typer.echo(
            f"{row.oil:<24}{row.kind:<14}{row.sap_listed_koh_mg_per_g:>7.1f}{sap:>10}{row.iodine_listed:>9.1f}"
            f"{iodine:>10}{row.acids_sum_percent:>9.1f}  {note}"
        )
    faulty = sum(bool(row.faults) for row in rows)
    typer.echo(f"{len(rows)} materials, {faulty} with faults")
    if faulty:
        raise typer.Exit(1)


@app.command()
def publish(docs: Annotated[Path, typer.Argument(help="The docs directory.")]) -> None:
    """Write the files that are generated from the code: API description, document schema, rules of thumb."""
    import tempfile

    from sapolin.api.app import create_app
    from sapolin.api.settings import Settings
    from sapolin.exchange.formula_document import document_schema
    from sapolin.exchange.question_document import question_schemas
    from sapolin.exchange.rules_of_thumb import rules_of_thumb
    from sapolin.store.archive import archive_schema

    with tempfile.TemporaryDirectory() as scratch:
        description = create_app(Settings(database=Path(scratch) / "none.db")).openapi()
    published = {"openapi.json": description, "formula.schema.json": document_schema(), **question_schemas()}
    published["archive.schema.json"] = archive_schema()
    for name, content in published.items():
        (docs / name).write_text(json.dumps(content, indent=2, ensure_ascii=False) + "\n", encoding="utf-8")
    (docs / "rules-of-thumb.md").write_text(rules_of_thumb(), encoding="utf-8")


def main() -> None:
    """Entry of `python -m sapolin`."""
    from sapolin.core.materials.catalogue import CatalogueError

    try:
        app()
    except CatalogueError as error:
        typer.echo(str(error), err=True)
        raise SystemExit(1) from error
