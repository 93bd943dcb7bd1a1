"""The command line: serve the application, calculate a document, write the published files."""

import json
import os
import socket
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated

import typer

__all__ = ["main"]

app = typer.Typer(
    add_completion=False,
    pretty_exceptions_enable=False,
    no_args_is_help=True,
    help="Sapolin: design, weigh and make soap.",
)

DEFAULT_PORT = 8719
LOOPBACK_HOSTS = ("127.0.0.1", "::1", "localhost")
BAD_INPUT = 2


def _fail(message: str, code: int = 1) -> typer.Exit:
    typer.echo(f"sapolin: {message}", err=True)
    return typer.Exit(code)


def _free_socket(host: str, port: int) -> socket.socket:
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    # asyncio switches Nagle's delay off only where the protocol is named; left on, it costs 40 ms an answer.
    listener = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
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
    web: Annotated[Path | None, typer.Option(help="Directory of the built front end.")] = None,
) -> None:
    """Serve the application until Ctrl+C."""
    from sapolin.api.app import create_app
    from sapolin.api.serving import serve_until_ended
    from sapolin.api.settings import Settings
    from sapolin.demo import world
    from sapolin.store.database import DatabaseFaultError, data_directory

    if host not in LOOPBACK_HOSTS:
        raise _fail(
            f"{host} would open Sapolin to the network, where nothing checks yet who asks. It listens on this machine alone; "
            "leave --host out.", BAD_INPUT,
        )  # fmt: skip
    listener = _free_socket(host, port)
    try:
        database = data_directory(data) / ("demo.db" if demo else "sapolin.db")
        application = create_app(Settings(database=database, web=web), world if demo else None)
    except DatabaseFaultError as error:
        listener.close()
        raise _fail(str(error)) from error
    shown_host = f"[{host}]" if ":" in host else host
    typer.echo(f"Sapolin{' (demo)' if demo else ''} is at http://{shown_host}:{listener.getsockname()[1]}/")
    typer.echo(f"Data: {database}")
    typer.echo("Ctrl+C stops it.")
    sys.stdout.flush()
    serve_until_ended(application, listener)


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

    with tempfile.TemporaryDirectory() as scratch:
        description = create_app(Settings(database=Path(scratch) / "none.db")).openapi()
    published = {"openapi.json": description, "formula.schema.json": document_schema(), **question_schemas()}
    for name, content in published.items():
        (docs / name).write_text(json.dumps(content, indent=2, ensure_ascii=False) + "\n", encoding="utf-8")
    (docs / "rules-of-thumb.md").write_text(rules_of_thumb(), encoding="utf-8")


def main() -> None:
    """Entry of `python -m sapolin`."""
    app()
