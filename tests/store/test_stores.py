"""What is kept is kept once, whole, and in order, whoever writes at the same time; old databases come along."""

import sqlite3
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, event
from sqlalchemy.exc import IntegrityError

import sapolin.store.migrations as migrations
from api.batches import plan_json
from conftest import formula_json
from demo_copy import put_empty
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.cure.learning import Observed
from sapolin.core.formula.document import Formula
from sapolin.core.production.events import Noted, Started
from sapolin.core.trials.rules import Taught
from sapolin.store.batches import BatchBegunError, BatchConflictError, StaleRecordError, UnknownBatchError
from sapolin.store.formulas import DeletedFormulaError, FormulaFilter, RevisionConflictError, UnknownFormulaError
from sapolin.store.stores import open_stores

PLAN = BatchPlan.model_validate(plan_json())
FORMULA = Formula.model_validate(formula_json())


def note(text: str) -> Noted:
    return Noted(kind="noted", text=text)


def saying(event):
    """Whatever stands there already, this may follow."""
    return lambda _record: event


def at_once(act, times: int = 16):
    """Results of `act(i)` from as many threads, or what each raised."""

    def tried(i):
        try:
            return act(i)
        except Exception as error:
            return error

    with ThreadPoolExecutor(max_workers=times) as pool:
        return list(pool.map(tried, range(times)))


@pytest.fixture
def stores(tmp_path):
    put_empty(tmp_path / "sapolin.db")
    return open_stores(tmp_path / "sapolin.db")


@pytest.fixture
def batch(stores):
    return stores.batches.create(PLAN)


TAUGHT = Taught(rules={"fill": Observed(offset=0.1, sd=0.1)})
FORGETTING = {
    "an event": lambda stores, batch: stores.batches.add_event(batch.id, "the-key", saying(Started(kind="started"))),
    "another plan": lambda stores, batch: stores.batches.update(batch.id, batch.revision, PLAN),
    "what another batch taught": lambda stores, batch: stores.cures.keep_taught(stores.batches.create(PLAN).id, TAUGHT),
    "another way of being ready": lambda stores, batch: stores.workshop.change(ready_by="weeks"),
    "learning no more": lambda stores, batch: stores.workshop.change(learns=False),
    "a new release": lambda stores, batch: stores.batches.forget_summaries(),
}


class TestWhatListsShow:
    def test_of_formulas_kept_in_one_millisecond_the_last_one_comes_first(self, stores, monkeypatch):
        monkeypatch.setattr("sapolin.store.formulas.utc_now", lambda: "2030-01-01T00:00:00.000+00:00")
        for name in ("Beeswax bar", "Castile bar", "Almond bar"):
            stores.formulas.create(FORMULA.model_copy(update={"name": name}))
        newest = ["Almond bar", "Castile bar", "Beeswax bar"]
        assert [one.formula.name for one in stores.formulas.find()][:3] == newest
        pages = [stores.formulas.page(FormulaFilter(), 1, offset)[1] for offset in range(3)]
        assert [one.name for [one] in pages] == newest

    def test_is_kept_when_nothing_happened_meanwhile(self, stores, batch):
        [entry] = stores.batches.unsummed(10)
        stores.workshop.change(confirms_lots=True)
        stores.batches.keep_summaries([(entry, "made", '{"told": "now"}')])
        assert stores.batches.entries([batch.id])[0].summary == '{"told": "now"}'
        assert stores.batches.page("", ["made"], limit=10)[0] == 1

    @pytest.mark.parametrize("forget", FORGETTING.values(), ids=FORGETTING)
    def test_is_not_kept_when_what_it_is_made_from_changed_meanwhile(self, stores, batch, forget):
        [entry] = stores.batches.unsummed(10)
        forget(stores, batch)
        stores.batches.keep_summaries([(entry, "made", '{"told": "as it was"}')])
        assert stores.batches.entries([batch.id])[0].summary is None
        assert batch.id in {one.id for one in stores.batches.unsummed(10)}


class TestAtTheSameTime:
    def test_events_of_many_devices_stand_in_one_row_without_gaps(self, stores, batch):
        results = at_once(lambda i: stores.batches.add_event(batch.id, f"device-{i:04d}", saying(note(f"{i}"))))
        assert not [one for one in results if isinstance(one, Exception)]
        events = stores.batches.events(batch.id)
        assert [event.seq for event in events] == list(range(1, 17))
        assert {event.event.text for event in events} == {str(i) for i in range(16)}

    def test_the_same_event_sent_many_times_is_kept_once(self, stores, batch):
        at_once(lambda _: stores.batches.add_event(batch.id, "the-same-key", saying(note("once"))))
        assert len(stores.batches.events(batch.id)) == 1

    def test_of_many_that_follow_the_same_event_one_is_taken(self, stores, batch):
        stores.batches.add_event(batch.id, "begin-begin", saying(Started(kind="started")))
        results = at_once(
            lambda i: stores.batches.add_event(batch.id, f"step-key-{i:03d}", saying(note("done")), after_seq=1)
        )
        assert sum(isinstance(one, StaleRecordError) for one in results) == 15
        assert len(stores.batches.events(batch.id)) == 2

    def test_of_many_saves_of_one_plan_one_is_taken(self, stores, batch):
        results = at_once(
            lambda i: stores.batches.update(batch.id, 1, PLAN.model_copy(update={"notes": f"writer {i}"}))
        )
        taken = [one for one in results if not isinstance(one, Exception)]
        assert len(taken) == 1
        assert sum(isinstance(one, BatchConflictError) for one in results) == 15
        assert stores.batches.get(batch.id).plan.notes == taken[0].plan.notes

    def test_of_many_saves_of_one_formula_one_is_taken(self, stores):
        record = stores.formulas.create(FORMULA)
        results = at_once(
            lambda i: stores.formulas.update(record.id, 1, FORMULA.model_copy(update={"notes": f"writer {i}"}))
        )
        taken = [one for one in results if not isinstance(one, Exception)]
        assert len(taken) == 1
        assert sum(isinstance(one, RevisionConflictError) for one in results) == 15
        assert stores.formulas.get(record.id).formula.notes == taken[0].formula.notes

    def test_every_batch_has_a_code_of_its_own(self, stores):
        results = at_once(lambda _: stores.batches.create(PLAN))
        assert not [one for one in results if isinstance(one, Exception)]
        codes = sorted(record.code for record in stores.batches.find())
        assert codes == [f"B-{101 + i}" for i in range(16)]

    def test_versions_are_numbered_without_gaps(self, stores):
        record = stores.formulas.create(FORMULA)
        results = at_once(lambda i: stores.formulas.keep_version(record.id, 1, f"note {i}"))
        assert not [one for one in results if isinstance(one, Exception)]
        kept = stores.formulas.versions(record.id)
        assert sorted(version.number for version in kept) == list(range(1, 17))
        assert {version.note for version in kept} == {f"note {i}" for i in range(16)}

    def test_a_list_is_one_look_whatever_is_written_meanwhile(self, stores):
        stores.formulas.create(FORMULA)
        writes = iter(("DELETE FROM formulas",))

        def write(_connection, _cursor, statement, *_rest):
            if statement.startswith("SELECT"):
                with closing(sqlite3.connect(stores.engine.url.database)) as other, other:
                    other.execute(next(writes, "SELECT 1"))

        event.listen(stores.engine, "after_cursor_execute", write)
        assert [one.name for one in stores.formulas.page(FormulaFilter(), 10)[1]] == [FORMULA.name]
        assert stores.formulas.page(FormulaFilter(), 10)[1] == []


class TestWhatIsRefused:
    def test_there_is_no_such_thing(self, stores):
        with pytest.raises(UnknownBatchError):
            stores.batches.get("nothing")
        with pytest.raises(UnknownBatchError):
            stores.batches.add_event("nothing", "some-key-1", saying(note("x")))
        with pytest.raises(UnknownFormulaError):
            stores.formulas.get("nothing")

    def test_a_begun_batch_keeps_its_plan(self, stores, batch):
        stores.batches.add_event(batch.id, "begin-begin", saying(Started(kind="started")))
        with pytest.raises(BatchBegunError):
            stores.batches.update(batch.id, 1, PLAN)

    def test_what_is_archived_is_not_changed(self, stores):
        record = stores.formulas.create(FORMULA)
        stores.formulas.delete(record.id)
        with pytest.raises(DeletedFormulaError):
            stores.formulas.update(record.id, record.revision, FORMULA)
        assert stores.formulas.find() == []
        assert [one.id for one in stores.formulas.find(archived=True)] == [record.id]

    def test_what_the_check_refuses_leaves_no_trace(self, stores, batch):
        class NoError(Exception):
            pass

        def refuse(_record):
            raise NoError

        with pytest.raises(NoError):
            stores.batches.add_event(batch.id, "some-key-1", refuse)
        assert stores.batches.events(batch.id) == []
        # The key is free: what was refused may be sent again.
        assert len(stores.batches.add_event(batch.id, "some-key-1", saying(note("x")))) == 1

    def test_pictures_belong_to_their_batch(self, stores, batch):
        other = stores.batches.create(PLAN)
        picture = ("trace.png", "image/png", b"\x89PNG")
        (record,) = stores.batches.add_photo(batch.id, "photo-key", *picture, lambda: None)
        file_id = record.event.file_id
        assert stores.batches.file(batch.id, file_id).content == b"\x89PNG"
        with pytest.raises(UnknownBatchError):
            stores.batches.file(other.id, file_id)

    def test_a_picture_sent_twice_is_kept_once_and_a_refused_one_not_at_all(self, stores, batch):
        class NoError(Exception):
            pass

        def refuse():
            raise NoError

        picture = ("trace.png", "image/png", b"\x89PNG")
        with pytest.raises(NoError):
            stores.batches.add_photo(batch.id, "photo-key", *picture, refuse)
        for _ in range(2):
            stores.batches.add_photo(batch.id, "photo-key", *picture, lambda: None)
        with stores.batches._engine.connect() as connection:
            assert connection.exec_driver_sql("SELECT count(*) FROM batch_files").scalar() == 1
        assert len(stores.batches.events(batch.id)) == 1

    def test_what_a_batch_began_with_stays(self, stores, batch):
        stores.batches.keep_missing_start(batch.id, "first")
        stores.batches.keep_missing_start(batch.id, "second")
        assert stores.batches.start(batch.id) == "first"
        with pytest.raises(IntegrityError, match="stays"), stores.batches._engine.begin() as connection:
            connection.exec_driver_sql("UPDATE batch_starts SET content = 'third'")


class TestOldDatabases:
    def at(self, file, revision: str) -> None:
        """A database as an older release left it."""
        config = Config()
        config.set_main_option("script_location", str(next(iter(migrations.__path__))))
        engine = create_engine(f"sqlite:///{file}")
        with engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, revision)
        engine.dispose()

    @pytest.mark.parametrize("revision", ["0001", "0002", "0003", "0004", "0005"])
    def test_what_was_kept_is_still_there(self, tmp_path, revision):
        file = tmp_path / "sapolin.db"
        self.at(file, revision)
        with closing(sqlite3.connect(file)) as connection, connection:
            connection.execute(
                "INSERT INTO formulas (id, name, search_text, content, content_version, revision, created_at, updated_at) "
                "VALUES ('old', 'Old bar', 'old bar', ?, 1, 3, '2029-01-01', '2029-01-02')",
                (FORMULA.model_copy(update={"name": "Old bar"}).model_dump_json(),),
            )
        stores = open_stores(file)
        (kept,) = stores.formulas.find()
        assert (kept.formula.name, kept.revision) == ("Old bar", 3)
        assert stores.batches.create(PLAN).code == "B-101"

    def test_the_database_before_is_kept_as_a_backup(self, tmp_path):
        file = tmp_path / "sapolin.db"
        self.at(file, "0003")
        open_stores(file)
        (copy,) = (tmp_path / "backups").iterdir()
        with closing(sqlite3.connect(copy)) as connection:
            tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        assert "formulas" in tables
        assert "batches" not in tables

    def test_a_database_that_is_up_to_date_is_left_alone(self, tmp_path):
        file = tmp_path / "sapolin.db"
        open_stores(file).formulas.create(FORMULA)
        open_stores(file)
        assert not (tmp_path / "backups").exists()

    def test_an_event_of_an_older_release_is_still_read(self, stores, batch):
        with stores.batches._engine.begin() as connection:
            connection.exec_driver_sql(
                "INSERT INTO batch_events (batch_id, seq, key, at, content) VALUES (?, 1, 'old-key-1', '2029-01-01', ?)",
                (batch.id, '{"event": {"kind": "started"}}'),
            )
        (event,) = stores.batches.events(batch.id)
        assert event.event.targets_g == {}


class TestNumbersSurvive:
    @pytest.mark.parametrize("grams", [0.1 + 0.2, 1e-9, 123456.789012345, 1 / 3])
    def test_to_the_last_bit(self, tmp_path, grams):
        file = tmp_path / "sapolin.db"
        content = formula_json()
        content["blend"] = {"lines": [{"oil": "coconut", "by": "weight_g", "value": grams}]}
        record = open_stores(file).formulas.create(Formula.model_validate(content))
        again = open_stores(file).formulas.get(record.id)
        assert again.formula.blend.lines[0].value == grams
