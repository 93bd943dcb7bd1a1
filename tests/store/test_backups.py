"""Backups: whole, checked, kept in turn, put back; a damaged file is saved as far as it can be read; one server a directory."""

import itertools
import os
import sqlite3
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path
from random import Random
from threading import Event

import pytest
from sqlalchemy.exc import IntegrityError

from conftest import formula_json
from demo_copy import put_demo, put_empty
from sapolin.core.formula.document import Formula
from sapolin.store import doctor as doctor_of
from sapolin.store.backup import KEPT, Backup, BackupError, Backups
from sapolin.store.database import DatabaseFaultError, open_database
from sapolin.store.doctor import examine, salvage
from sapolin.store.lock import DirectoryInUseError, DirectoryLock
from sapolin.store.stores import open_stores

FORMULA = Formula.model_validate(formula_json())


def everything(file: Path) -> dict[str, list[tuple]]:
    """Every row of every table."""
    with closing(sqlite3.connect(file)) as connection:
        tables = [row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        return {table: connection.execute(f'SELECT * FROM "{table}" ORDER BY rowid').fetchall() for table in tables}


def named(name: str) -> Formula:
    return FORMULA.model_copy(update={"name": name})


@pytest.fixture
def file(tmp_path) -> Path:
    return tmp_path / "sapolin.db"


@pytest.fixture
def stores(file):
    put_empty(file)
    opened = open_stores(file)
    yield opened
    opened.close()


class TestTaking:
    def test_a_backup_is_one_whole_file_for_the_maker_alone_with_what_was_saved_last(self, file, stores):
        stores.formulas.create(named("Just saved"))
        backup = Backups(file).take("asked")
        copy = Backups(file).path(backup.name)
        assert everything(copy) == everything(file)
        assert (backup.reason, backup.size_bytes) == ("asked", copy.stat().st_size)
        assert (copy.stat().st_mode & 0o777, copy.parent.stat().st_mode & 0o777) == (0o600, 0o700)
        assert [one.name for one in copy.parent.iterdir()] == [copy.name]

    def test_two_at_once_are_taken_one_after_the_other(self, file, stores, monkeypatch):
        under_way, both, check = set(), Event(), Backups.check

        def slow_check(self, copy):
            under_way.add(copy)
            if len(under_way) == 2:
                both.set()
            both.wait(0.5)
            check(self, copy)
            under_way.discard(copy)

        monkeypatch.setattr(Backups, "check", slow_check)
        with ThreadPoolExecutor(2) as pool:
            taken = [one.name for one in pool.map(lambda _: Backups(file).take("asked"), range(2))]
        assert not both.is_set()
        assert sorted(one.name for one in Backups(file).all()) == sorted(taken)

    def test_a_year_of_days_keeps_seven_days_and_eight_weeks(self, file, stores):
        backups, start = Backups(file), datetime(2026, 1, 1, 9, tzinfo=UTC)
        for day in range(120):
            for hour in (0, 3, 8):
                backups.take_if_due(start + timedelta(days=day, hours=hour))
        kept = backups.all()
        end = start + timedelta(days=119)
        days = [one for one in kept if one.reason == "daily"]
        weeks = [one for one in kept if one.reason == "weekly"]
        assert (len(days), len(weeks), len(kept)) == (7, 8, 15)
        assert end - datetime.fromisoformat(days[-1].taken_at) <= timedelta(days=9)
        assert end - datetime.fromisoformat(weeks[-1].taken_at) >= timedelta(weeks=7)
        gaps = {
            (datetime.fromisoformat(newer.taken_at) - datetime.fromisoformat(older.taken_at)).days
            for newer, older in itertools.pairwise(weeks)
        }
        assert gaps == {7}

    def test_a_clock_that_was_wrong_for_a_day_changes_nothing_about_their_order(self, file, stores):
        backups = Backups(file)
        right = datetime(2026, 5, 4, 9, tzinfo=UTC)
        for day in range(3):
            backups.take_if_due(right + timedelta(days=day))
        wrong = right + timedelta(days=400)
        stores.formulas.create(named("While it was wrong"))
        ahead = backups.take_if_due(wrong)
        assert ahead is not None
        assert "Look at the clock" in (backups.clock_trouble(right + timedelta(days=3)) or "")
        stores.formulas.create(named("After it was put right"))
        after = [backups.take_if_due(right + timedelta(days=3 + day)) for day in range(9)]
        assert None not in after
        assert backups.clock_trouble(right + timedelta(days=11)) is None
        assert backups.all()[0].name == after[-1].name
        assert [one.name for one in backups.all()].index(ahead.name) == 8
        assert doctor_of.newest_sound_backup(file) == backups.path(after[-1].name)
        with closing(sqlite3.connect(backups.path(after[-1].name))) as copy:
            assert copy.execute("SELECT count(*) FROM formulas").fetchone() == (2,)

    def test_one_named_for_no_day_stops_nothing(self, file, stores):
        backups = Backups(file)
        backups.take("asked")
        for at in ("20269999T999999", "99991231T235959"):
            (backups.directory / f"sapolin.{at}.daily.backup").write_bytes(b"")
        assert backups.take_if_due() is not None
        assert backups.all()[0].reason in ("weekly", "daily")

    def test_those_of_earlier_releases_are_older(self, file, stores):
        backups = Backups(file)
        new = backups.take("asked")
        old = backups.directory / "sapolin.20990101T000000000000.asked.backup"
        old.write_bytes(backups.path(new.name).read_bytes())
        assert [one.name for one in backups.all()] == [new.name, old.name]

    def test_what_a_maker_asked_for_does_not_push_out_the_weeks(self, file, stores):
        backups = Backups(file)
        backups.take("weekly")
        for _ in range(25):
            backups.take("asked")
        reasons = [one.reason for one in backups.all()]
        assert (reasons.count("asked"), reasons.count("weekly")) == (20, 1)

    def test_a_damaged_database_gives_no_backup_that_looks_good(self, file):
        put_demo(file)
        content = bytearray(file.read_bytes())
        content[40_000:80_000] = os.urandom(40_000)
        file.write_bytes(content)
        with pytest.raises(BackupError, match=r"damaged|cannot be read"):
            Backups(file).take("asked")
        assert [*Backups(file).directory.iterdir()] == []

    def test_no_room_is_said(self, file, stores, monkeypatch):
        usage = type("Usage", (), {"free": 3_000_000})
        monkeypatch.setattr("sapolin.store.backup.shutil.disk_usage", lambda _: usage)
        with pytest.raises(BackupError, match="only 3 MB left"):
            Backups(file).take("asked")

    def test_names_that_lead_elsewhere_are_no_backups(self, file, stores):
        (file.parent / "secret.backup").write_text("x")
        for name in ("../secret.backup", "/etc/passwd", "sapolin.db", ""):
            with pytest.raises(BackupError):
                Backups(file).path(name)


class TestSecondPlace:
    def test_copies_go_there_and_what_was_missed_is_caught_up_with(self, file, stores, tmp_path):
        stick = tmp_path / "stick" / "soap"
        backups = Backups(file)
        first = backups.take("asked")
        backups.choose_second_place(str(stick))
        assert (stick / first.name).is_file()
        stick.rename(tmp_path / "away")
        second = backups.take("asked")
        assert not second.in_second_place
        (tmp_path / "away").rename(stick)
        third = backups.take("asked")
        assert all(one.in_second_place for one in backups.all())
        assert {one.name for one in stick.iterdir()} == {first.name, second.name, third.name}

    def test_one_that_is_only_there_can_be_put_back(self, file, stores, tmp_path):
        backups = Backups(file)
        backups.choose_second_place(str(tmp_path / "stick"))
        taken = backups.take("asked")
        (backups.directory / taken.name).unlink()
        assert backups.path(taken.name).parent == tmp_path / "stick"

    @pytest.mark.parametrize("folder", ["relative/place", "/proc/nothing/can/be/written"])
    def test_what_cannot_be_one_is_refused(self, file, stores, folder):
        with pytest.raises(BackupError, match=r"\."):
            Backups(file).choose_second_place(folder)
        assert Backups(file).second_place is None

    def test_none_is_kept_as_none(self, file, stores, tmp_path):
        Backups(file).choose_second_place(str(tmp_path / "stick"))
        Backups(file).choose_second_place(None)
        assert Backups(file).second_place is None


class TestPuttingBack:
    def test_all_becomes_as_it_was_while_it_is_in_use_and_can_be_taken_back(self, file, stores):
        kept = stores.formulas.create(named("Then"))
        backups = Backups(file)
        then, taken = everything(file), backups.take("asked")
        stores.formulas.update(kept.id, kept.revision, named("Changed"))
        stores.formulas.create(named("New"))
        now = everything(file)
        before = backups.restore(backups.path(taken.name))
        assert everything(file) == then
        assert [one.formula.name for one in stores.formulas.find()] == ["Then"]
        backups.restore(backups.path(before.name))
        assert everything(file) == now

    def test_the_oldest_that_a_restore_left_can_be_put_back(self, file, stores):
        """Taking one more before it puts the oldest out: it is read to its end all the same."""
        stores.formulas.create(named("As it was first"))
        backups, had = Backups(file), everything(file)
        oldest = backups.take("restore")
        stores.formulas.create(named("Since then"))
        for _ in range(KEPT["restore"] - 1):
            backups.take("restore")
        assert oldest.name in [one.name for one in backups.all()]
        backups.restore(backups.path(oldest.name))
        assert everything(file) == had
        assert oldest.name not in [one.name for one in backups.all()]

    def test_one_that_goes_while_it_is_compared_is_said_to_be_gone(self, file, stores, monkeypatch):
        backups = Backups(file)
        copy = backups.path(backups.take("asked").name)
        monkeypatch.setattr(Backups, "check", lambda _, gone: gone.unlink())
        with pytest.raises(BackupError, match=f"{copy.name} cannot be compared"):
            backups.differences(copy)

    def test_the_dry_run_says_it_and_changes_nothing(self, file, stores):
        gone, changed = stores.formulas.create(named("Gone later")), stores.formulas.create(named("Then"))
        backups = Backups(file)
        taken = backups.take("asked")
        stores.formulas.update(changed.id, changed.revision, named("Changed"))
        stores.formulas.create(named("New"))
        with stores.engine.begin() as connection:
            connection.exec_driver_sql("DELETE FROM formulas WHERE id = ?", (gone.id,))
        now = everything(file)
        found = {one.table: one for one in backups.differences(backups.path(taken.name))}["formulas"]
        assert everything(file) == now
        assert (found.now, found.then) == (2, 2)
        assert (found.would_go, found.would_come, found.would_change) == (1, 1, 1)
        others = [one for one in backups.differences(backups.path(taken.name)) if one.table != "formulas"]
        assert all(one.would_go + one.would_come + one.would_change == 0 for one in others)
        stores.workshop.change(emergency_number="112")
        found = {one.table: one for one in backups.differences(backups.path(taken.name))}["workshop"]
        assert (found.would_go, found.what) == (1, "settings of the workshop")

    def test_a_damaged_backup_is_refused_and_nothing_is_changed(self, file, stores):
        stores.formulas.create(named("Now"))
        backups = Backups(file)
        copy = backups.path(backups.take("asked").name)
        content = bytearray(copy.read_bytes())
        content[8192:40_000] = b"\xff" * (40_000 - 8192)
        copy.write_bytes(content)
        now = everything(file)
        with pytest.raises(BackupError, match=r"damaged|cannot be read"):
            backups.restore(copy)
        assert everything(file) == now

    def test_on_another_machine_it_becomes_the_database(self, file, stores, tmp_path):
        stores.formulas.create(named("Then"))
        copy = Backups(file).path(Backups(file).take("asked").name)
        elsewhere = tmp_path / "elsewhere" / "sapolin.db"
        elsewhere.parent.mkdir()
        assert Backups(elsewhere).put_in_place(copy) is None
        assert [one.formula.name for one in open_stores(elsewhere).formulas.find()] == ["Then"]


class TestDoctor:
    def damaged(self, file: Path) -> tuple[int, int]:
        """A demo whose file lost some of its formulas' pages; how many formulas and batches it had."""
        put_demo(file)
        with closing(sqlite3.connect(file)) as connection:
            connection.execute("VACUUM")
            counts = tuple(
                connection.execute(f"SELECT count(*) FROM {table}").fetchone()[0] for table in ("formulas", "batches")
            )
            pages = [
                row[0]
                for row in connection.execute("SELECT pageno FROM dbstat WHERE name = 'formulas' AND pagetype = 'leaf'")
            ]
        content = bytearray(file.read_bytes())
        page = pages[len(pages) // 2]
        content[(page - 1) * 4096 : page * 4096] = b"\x00" * 4096
        file.write_bytes(content)
        return counts

    def test_a_sound_one_is_said_to_be(self, file):
        put_demo(file)
        seen = examine(file)
        assert (seen.is_sound, seen.faults) == (True, ())
        assert {one.table: one.rows for one in seen.tables}["batches"] == 21
        assert any("no backup" in warning for warning in seen.warnings)

    def test_what_can_be_read_of_a_damaged_one_is_saved_and_the_file_kept(self, file):
        had_formulas, had_batches = self.damaged(file)
        damaged = file.read_bytes()
        seen = examine(file)
        assert not seen.is_sound
        lost = {one.table: one for one in seen.tables}["formulas"]
        assert lost.unreadable > 0
        after, aside = salvage(file)
        assert after.is_sound, after.faults
        assert aside.read_bytes() == damaged
        rows = {one.table: one.rows for one in after.tables}
        assert 0 < rows["formulas"] < had_formulas
        assert rows["batches"] == had_batches
        assert len(open_stores(file).formulas.find()) > 0

    def test_one_that_no_longer_says_its_format_is_saved_by_its_tables(self, file, stores):
        stores.formulas.create(FORMULA)
        stores.close()
        with closing(sqlite3.connect(file)) as connection:
            (page,) = connection.execute("SELECT pageno FROM dbstat WHERE name = 'alembic_version'").fetchone()
        content = bytearray(file.read_bytes())
        content[(page - 1) * 4096 : page * 4096] = b"\x00" * 4096
        file.write_bytes(content)
        assert "in which format" in examine(file).faults[1]
        after, _ = salvage(file)
        assert after.is_sound, after.faults
        assert len(open_stores(file).formulas.find()) == 1

    @pytest.mark.parametrize("left", [0.4, 0.9, 0.98])
    def test_of_one_that_was_cut_off_is_saved_what_is_left(self, file, left):
        put_demo(file)
        whole = file.read_bytes()
        file.write_bytes(whole[: int(len(whole) * left)])
        after, _ = salvage(file)
        assert after.is_sound, after.faults
        assert sum(one.rows for one in after.tables) > 100
        open_stores(file).close()

    @pytest.mark.parametrize("seed", range(3))
    def test_noise_in_some_pages_takes_what_lay_there_and_no_more(self, file, seed):
        put_demo(file)
        content, pick = bytearray(file.read_bytes()), Random(seed)
        with closing(sqlite3.connect(file)) as connection:
            rows = sum(one.rows for one in examine(file).tables)
            pages = [row[0] for row in connection.execute("SELECT pageno FROM dbstat WHERE name NOT LIKE 'sqlite_%'")]
        for page in pick.sample(pages, len(pages) // 20):
            content[(page - 1) * 4096 : page * 4096] = pick.randbytes(4096)
        file.write_bytes(content)
        after, _ = salvage(file)
        assert after.is_sound, after.faults
        assert rows / 20 < sum(one.rows for one in after.tables) <= rows
        stores = open_stores(file)
        with pytest.raises(IntegrityError, match="only grows"), stores.engine.begin() as connection:
            connection.exec_driver_sql("DELETE FROM batch_events")
        stores.close()

    def test_rows_that_are_no_json_are_found(self, file, stores):
        kept = stores.formulas.create(FORMULA)
        with stores.engine.begin() as connection:
            connection.exec_driver_sql("UPDATE formulas SET content = '{' WHERE id = ?", (kept.id,))
        seen = examine(file)
        assert {one.table: one.unreadable for one in seen.tables}["formulas"] == 1
        assert "At least 1 of the rows cannot be read (formulas)" in seen.faults[0]

    def test_garbage_a_newer_one_and_none_are_told_apart(self, file, tmp_path):
        assert "is not there" in examine(file).faults[0]
        (tmp_path / "garbage.db").write_bytes(b"garbage " * 2000)
        assert "cannot be opened" in examine(tmp_path / "garbage.db").faults[0]
        with pytest.raises(DatabaseFaultError, match="Nothing can be read"):
            salvage(tmp_path / "garbage.db")
        assert (tmp_path / "garbage.db").read_bytes() == b"garbage " * 2000
        open_stores(file).close()
        with closing(sqlite3.connect(file)) as connection, connection:
            connection.execute("UPDATE alembic_version SET version_num = '9999'")
        assert "newer Sapolin" in examine(file).faults[0]

    def test_the_newest_backup_that_is_whole_is_found(self, file, stores):
        backups = Backups(file)
        good, bad = backups.take("asked"), backups.take("asked")
        assert doctor_of.newest_sound_backup(file) == backups.path(bad.name)
        backups.path(bad.name).write_bytes(b"cut off")
        assert doctor_of.newest_sound_backup(file) == backups.path(good.name)


class TestOneServer:
    def test_the_second_is_told_where_the_first_is(self, file):
        with DirectoryLock(file, "http://127.0.0.1:8719/"):
            with pytest.raises(DirectoryInUseError, match=r"http://127\.0\.0\.1:8719/"):
                DirectoryLock(file, "http://127.0.0.1:9000/")
            DirectoryLock(file.with_name("demo.db"), "http://127.0.0.1:9001/").release()
        DirectoryLock(file, "http://127.0.0.1:9000/").release()


def test_a_lost_database_is_not_replaced_while_a_backup_shows_that_there_was_one(file):
    open_stores(file).close()
    taken: Backup = Backups(file).take("asked")
    file.unlink()
    with pytest.raises(DatabaseFaultError, match=taken.name):
        open_database(file)


def test_what_an_ended_server_left_aside_goes_at_the_next_start_and_nothing_else(file, stores):
    stores.close()
    old, new, own = (file.parent / name for name in ("sapolin-archive-old", "sapolin-coming-new", "sapolin-notes"))
    for directory in (old, new, own):
        directory.mkdir()
        (directory / "archive.db").write_bytes(b"half")
    for directory in (old, own):
        os.utime(directory, (0, 0))
    open_database(file).dispose()
    assert [one.exists() for one in (old, new, own)] == [False, True, True]
