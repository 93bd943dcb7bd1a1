"""The database file is whole whatever ends the program, is never silently replaced, and says in words why it cannot be used."""

import os
import random
import shutil
import signal
import sqlite3
import time
from collections.abc import Callable
from contextlib import closing
from multiprocessing import get_context
from pathlib import Path

import pytest
from alembic.config import Config
from alembic.script import ScriptDirectory
from sqlalchemy import create_engine, event
from sqlalchemy.exc import OperationalError

from api.batches import plan_json
from conftest import formula_json
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.cure.events import CureNote, Judged
from sapolin.core.formula.document import Formula
from sapolin.core.trials.comparison import KeyShown
from sapolin.demo import world
from sapolin.services.comparisons import add_comparison_event, comparisons_of
from sapolin.services.cure import add_cure_event
from sapolin.services.followed import keep_missing_taught
from sapolin.services.lists import page_of_batches, page_of_formulas
from sapolin.store import database
from sapolin.store.database import (
    DatabaseFaultError,
    data_directory,
    fault_in_words,
    known_formats,
    newest_format,
    open_database,
    upgrade_to,
)
from sapolin.store.formulas import FormulaFilter
from sapolin.store.reading import UnreadableError
from sapolin.store.stores import open_stores

FORMULA = Formula.model_validate(formula_json())
PLAN = BatchPlan.model_validate(plan_json())
FORK = get_context("fork")
MOMENTS = int(os.environ.get("SAPOLIN_MOMENTS", "12"))
"""So often a process is killed at its work; more of them find more."""


def old_database(file: Path, revision: str) -> None:
    """A database with one formula, as an older release left it."""
    upgrade_to(file, revision)
    engine = create_engine(f"sqlite:///{file}")
    with engine.begin() as connection:
        connection.exec_driver_sql(
            "INSERT INTO formulas (id, name, search_text, content, content_version, revision, created_at, updated_at) "
            "VALUES ('old', 'Old bar', 'old bar', ?, 1, 3, '2029-01-01', '2029-01-02')",
            (FORMULA.model_dump_json(),),
        )
    engine.dispose()


def ended_at_random(work, seconds: float, wait: Callable[[], object] = lambda: None) -> bool:
    """Do `work` in a process of its own and kill it so long after the `wait`; whether it was killed before it was done."""
    process = FORK.Process(target=work)
    process.start()
    wait()
    time.sleep(seconds)
    process.kill()
    process.join()
    return process.exitcode != 0


def told_until_killed(work: Callable[[int], None], lines: int, seconds: float) -> tuple[list[str], bool]:
    """What `work` writes, line by line, into the pipe that it is given until it is killed, so long after so many lines; and
    whether it was killed before it was done.
    """
    reading, writing = os.pipe()
    with os.fdopen(reading) as pipe:
        told: list[str] = []

        def wait() -> None:
            os.close(writing)
            told.extend(pipe.readline().strip() for _ in range(lines))

        was_cut_off = ended_at_random(lambda: work(writing), seconds, wait)
        return told + pipe.read().split(), was_cut_off


def test_the_files_of_the_migrations_are_named_by_their_formats():
    config = Config()
    config.set_main_option("script_location", str(Path(database.__file__).parent / "migrations"))
    scripts = ScriptDirectory.from_config(config)
    assert known_formats() == {script.revision for script in scripts.walk_revisions()}
    assert newest_format() == scripts.get_current_head()


class TestKilled:
    def test_a_first_start_can_be_killed_at_any_moment(self, tmp_path):
        moments = random.Random(7)
        cut_off = 0
        for i in range(MOMENTS):
            file = tmp_path / f"{i}.db"
            cut_off += ended_at_random(lambda file=file: open_stores(file), moments.uniform(0.0, 0.12))
            assert open_stores(file).formulas.create(FORMULA).revision == 1
        assert cut_off > MOMENTS // 4

    def test_a_migration_can_be_killed_at_any_moment(self, tmp_path):
        moments = random.Random(11)
        cut_off = 0
        for i in range(MOMENTS):
            file = tmp_path / str(i) / "sapolin.db"
            file.parent.mkdir()
            old_database(file, "0001")
            for _ in range(2):
                cut_off += ended_at_random(lambda file=file: open_stores(file), moments.uniform(0.0, 0.12))
            (kept,) = open_stores(file).formulas.find()
            assert (kept.id, kept.revision) == ("old", 3)
            # Every copy that was finished is a good one.
            for copy in file.parent.glob("backups/*.upgrade.backup"):
                with closing(sqlite3.connect(copy)) as connection:
                    assert connection.execute("SELECT name FROM formulas").fetchone() == ("Old bar",)
        assert cut_off > MOMENTS // 4

    def test_what_an_earlier_release_left_half_built_is_built_anew(self, tmp_path):
        file = tmp_path / "sapolin.db"
        with closing(sqlite3.connect(file)) as connection, connection:
            connection.execute("CREATE TABLE formulas (id TEXT)")
            connection.execute("CREATE TABLE alembic_version (version_num TEXT)")
        assert open_stores(file).formulas.create(FORMULA).revision == 1

    def test_what_was_acknowledged_is_in_a_copy_of_the_file_alone_after_a_kill_and_a_start(self, tmp_path):
        file = tmp_path / "sapolin.db"

        def keep_one() -> None:
            open_stores(file).formulas.create(FORMULA)
            os.kill(os.getpid(), signal.SIGKILL)

        process = FORK.Process(target=keep_one)
        process.start()
        process.join()
        assert (tmp_path / "sapolin.db-wal").stat().st_size > 0
        open_database(file)
        shutil.copy(file, tmp_path / "copy.db")
        assert [one.formula.name for one in open_stores(tmp_path / "copy.db").formulas.find()] == [FORMULA.name]

    def test_nothing_recorded_after_the_pour_is_lost_at_any_moment(self, tmp_path):
        file = tmp_path / "demo.db"
        stores = open_stores(file)
        world.fill(stores)
        batch_id = next(one.id for one in stores.batches.find() if one.code == "B-092")
        comparison = next(one for one in comparisons_of(stores) if not one.is_done)
        stores.close()
        moments = random.Random(13)
        acknowledged: list[str] = []
        cut_off = 0
        for i in range(MOMENTS):

            def work(writing: int, i=i) -> None:
                mine = open_stores(file)
                judged = Judged(kind="judged", tester="Runa", scores={"bubbles": 3})
                for n in range(50):
                    key = f"moment-{i:03d}-{n:03d}"
                    if n % 3 == 2:
                        shown = KeyShown(kind="key_shown")
                        add_comparison_event(comparison.id, key, shown, None, None, mine)
                    else:
                        event = judged if n % 3 else CureNote(kind="noted", text=key)
                        add_cure_event(batch_id, key, event, None, None, mine)
                    os.write(writing, f"{key}\n".encode())

            told, was_cut_off = told_until_killed(work, moments.randrange(1, 10), moments.uniform(0.0, 0.03))
            acknowledged += told
            cut_off += was_cut_off
        with closing(sqlite3.connect(file)) as connection:
            kept = {
                key
                for table in ("cure_events", "comparison_events")
                for (key,) in connection.execute(f"SELECT key FROM {table}")
            }
            assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        assert set(acknowledged) <= kept
        assert cut_off == MOMENTS
        assert len(acknowledged) > MOMENTS
        # What the record adds up to is what it adds up to when it is added up anew.
        stores = open_stores(file)
        before = stores.cures.taught()[batch_id]
        stores.workshop.set_mark("taught_of", "an earlier release")
        keep_missing_taught(stores)
        assert stores.cures.taught()[batch_id] == before

    def test_closed_it_is_one_whole_file(self, tmp_path):
        stores = open_stores(tmp_path / "sapolin.db")
        stores.formulas.create(FORMULA)
        stores.close()
        assert [path.name for path in tmp_path.iterdir()] == ["sapolin.db"]

    def test_copies_before_a_migration_are_never_overwritten(self, tmp_path):
        file = tmp_path / "sapolin.db"
        for name in ("first", "second"):
            file.unlink(missing_ok=True)
            old_database(file, "0003")
            with closing(sqlite3.connect(file)) as connection, connection:
                connection.execute("UPDATE formulas SET name = ?", (name,))
            open_stores(file).close()
        names = set()
        for copy in tmp_path.glob("backups/*.upgrade.backup"):
            with closing(sqlite3.connect(copy)) as connection:
                names.add(connection.execute("SELECT name FROM formulas").fetchone()[0])
        assert names == {"first", "second"}


class TestNeverSilentlyEmpty:
    def refused(self, file: Path) -> str:
        with pytest.raises(DatabaseFaultError) as refused:
            open_database(file)
        message = str(refused.value)
        assert message.endswith(".")
        assert "\n" not in message
        return message

    @pytest.mark.parametrize(
        "trace",
        ["sapolin.db-wal", "sapolin.db.before-0006-20290101T000000", "backups/sapolin.20290101T000000.daily.backup"],
    )
    def test_where_there_was_one_no_new_one_is_made(self, tmp_path, trace):
        (tmp_path / trace).parent.mkdir(exist_ok=True)
        (tmp_path / trace).write_bytes(b"something")
        assert "is missing" in self.refused(tmp_path / "sapolin.db")
        assert not (tmp_path / "sapolin.db").exists()

    def test_a_copy_that_holds_nothing_is_not_taken_for_new(self, tmp_path):
        source = tmp_path / "source.db"
        with closing(sqlite3.connect(source)) as connection:
            connection.execute("PRAGMA journal_mode=WAL")
            connection.execute("CREATE TABLE formulas (id TEXT)")
            connection.commit()
            shutil.copy(source, tmp_path / "sapolin.db")  # without its write-ahead log
        assert (tmp_path / "sapolin.db").stat().st_size == 4096
        assert "holds nothing" in self.refused(tmp_path / "sapolin.db")

    def test_garbage_truncated_newer_and_directories_are_said_in_a_sentence(self, tmp_path):
        (tmp_path / "garbage.db").write_bytes(b"garbage " * 2000)
        assert "is not a database" in self.refused(tmp_path / "garbage.db")
        stores = open_stores(tmp_path / "short.db")
        for _ in range(40):
            stores.formulas.create(FORMULA)
        stores.close()
        with (tmp_path / "short.db").open("r+b") as file:
            file.truncate(20_000)
        assert "is damaged" in self.refused(tmp_path / "short.db")
        open_stores(tmp_path / "newer.db").close()
        with closing(sqlite3.connect(tmp_path / "newer.db")) as connection, connection:
            connection.execute("UPDATE alembic_version SET version_num = '9999'")
        assert "newer Sapolin" in self.refused(tmp_path / "newer.db")
        (tmp_path / "folder.db").mkdir()
        assert "is a directory" in self.refused(tmp_path / "folder.db")

    def test_a_data_path_that_is_a_file_is_said_in_a_sentence(self, tmp_path):
        (tmp_path / "file").write_text("x")
        for path in (tmp_path / "file", tmp_path / "file" / "below"):
            with pytest.raises(DatabaseFaultError, match="is a file"):
                data_directory(path)

    @pytest.mark.parametrize(("said", "words"), [
        ("attempt to write a readonly database", "cannot be written to"), ("database or disk is full", "disk is full"),
        ("unable to open database file", "cannot be opened"), ("database is locked", "in use"), ("odd", "(odd)"),
    ])  # fmt: skip
    def test_faults_of_the_disk_have_their_words(self, tmp_path, said, words):
        assert words in str(fault_in_words(tmp_path / "sapolin.db", sqlite3.OperationalError(said)))

    def test_a_disk_that_fills_up_while_it_starts_is_one_sentence(self, tmp_path, monkeypatch):
        file = tmp_path / "sapolin.db"
        old_database(file, "0001")

        def small(engine):
            @event.listens_for(engine, "connect")
            def limit(connection, _record):
                connection.execute("PRAGMA max_page_count = 9")

        real = database.create_engine

        def on_a_full_disk(*args, **kwargs):
            engine = real(*args, **kwargs)
            small(engine)
            return engine

        monkeypatch.setattr(database, "create_engine", on_a_full_disk)
        with pytest.raises(DatabaseFaultError, match="disk is full"):
            open_database(file)
        monkeypatch.undo()
        assert [one.id for one in open_stores(file).formulas.find()] == ["old"]


class TestOneUnreadableRow:
    def damage(self, stores, table: str, where: str) -> None:
        with stores.engine.begin() as connection:
            if table == "batch_events":
                connection.exec_driver_sql("DROP TRIGGER batch_events_never_change")
            connection.exec_driver_sql(f'UPDATE {table} SET content = \'{{"from": "the future"}}\' WHERE {where}')

    def test_a_formula_does_not_hide_the_others(self, tmp_path):
        stores = open_stores(tmp_path / "sapolin.db")
        good, bad = stores.formulas.create(FORMULA), stores.formulas.create(FORMULA)
        self.damage(stores, "formulas", f"id = '{bad.id}'")
        assert [one.id for one in stores.formulas.find()] == [good.id]
        listed = page_of_formulas(stores.formulas, FormulaFilter(), limit=10).formulas
        assert {one.id: one.state == "unreadable" for one in listed} == {good.id: False, bad.id: True}
        with pytest.raises(UnreadableError):
            stores.formulas.get(bad.id)

    @pytest.mark.parametrize("table", ["batches", "batch_events"])
    def test_nor_does_a_batch_or_an_event(self, tmp_path, table):
        stores = open_stores(tmp_path / "sapolin.db")
        good, bad = stores.batches.create(PLAN), stores.batches.create(PLAN)
        from sapolin.core.production.events import Noted

        stores.batches.add_event(bad.id, "some-key-1", lambda _: Noted(kind="noted", text="x"))
        self.damage(stores, table, f"{'id' if table == 'batches' else 'batch_id'} = '{bad.id}'")
        assert good.id in [one.id for one in stores.batches.find()]
        listed = page_of_batches(stores, limit=10).batches
        assert {one.id: one.status == "unreadable" for one in listed} == {good.id: False, bad.id: True}
        with pytest.raises(UnreadableError):
            stores.batches.events(bad.id) if table == "batch_events" else stores.batches.get(bad.id)


def test_nothing_is_saved_when_the_disk_is_full(tmp_path):
    stores = open_stores(tmp_path / "sapolin.db")
    kept = stores.formulas.create(FORMULA)
    with stores.engine.connect() as connection:
        pages = connection.exec_driver_sql("PRAGMA page_count").scalar()
        connection.exec_driver_sql(f"PRAGMA max_page_count = {pages}")
    big = FORMULA.model_copy(update={"notes": "x" * 19_000})

    def fill_up() -> None:
        for _ in range(50):
            stores.formulas.create(big)

    with pytest.raises(OperationalError, match="full"):
        fill_up()
    assert kept.id in [one.id for one in stores.formulas.find()]


def test_what_was_typed_as_on_hand_becomes_lots_and_is_told_once(tmp_path):
    file = tmp_path / "sapolin.db"
    old_database(file, "0015")
    note = '{"liking": "favourite", "on_hand_g": %s, "most_percent": null}'
    with closing(sqlite3.connect(file)) as connection, connection:
        for oil, grams in (("olive-refined", "3200.0"), ("shea", "450.0"), ("hemp", "0.0"), ("coconut", "900.0")):
            connection.execute("INSERT INTO oil_notes VALUES (?, ?, '2029-02-03T10:00:00+00:00')", (oil, note % grams))
        connection.execute("INSERT INTO prices (oil, per_kg, updated_at) VALUES ('olive-refined', 6.5, '2029-01-01')")
        # A lot that stands there already: the ledger knows better than what was typed.
        lot = '{"code": "start-1", "material": "coconut", "kind": "oil", "amount_g": 700.0, "arrived": "2029-01-01"}'
        connection.execute("INSERT INTO lots VALUES ('c', 'start-1', 'coconut', ?, '2029-01-01', NULL)", (lot,))
        connection.execute(
            "INSERT INTO ledger (lot_id, seq, key, at, change_g, content) "
            "VALUES ('c', 1, 'k', '2029-01-01', 700.0, '{\"event\": {\"kind\": \"arrived\"}}')"
        )
    stores = open_stores(file)
    lots = {one.lot.material: one for one in stores.stock.standing()}
    assert {material: one.now.in_hand_g for material, one in lots.items()} == {
        "olive-refined": 3200.0, "shea": 450.0, "coconut": 700.0,
    }  # fmt: skip
    assert lots["olive-refined"].lot.per_kg == pytest.approx(6.5)
    assert (lots["shea"].lot.per_kg, str(lots["shea"].lot.arrived)) == (None, "2029-02-03")
    assert len({one.lot.code.lower() for one in lots.values()}) == 3
    notes = stores.oil_notes.all()
    assert {note.on_hand_g for note in notes.values()} == {None}
    assert notes["shea"].liking == "favourite"
