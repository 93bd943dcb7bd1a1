"""Bars put to the test, over HTTP: sheets, blind comparisons, trials, what is learned, lessons, pictures."""

from uuid import uuid4

import pytest

from api.batches import Batch
from api.begun import fit, made
from api.pictures import kept, taken
from api.test_cure import refused, send, view_of
from sapolin.services.followed import keep_missing_taught
from sapolin.services.learning import wants_teaching

SHEET = {"bubbles": 4, "bubble_size": 4, "stay": 3, "rinse": 3, "skin_after": 4, "press": 3}
PNG = taken()


def judge(client, batch_id, tester="Runa", scores=None, **more):
    return send(client, batch_id, kind="judged", tester=tester, scores=SHEET if scores is None else scores, **more)


def told(words):
    return "".join(one if isinstance(one, str) else str(one.get("value")) for one in words)


def view_of_tests(client, batch_id):
    return client.get(f"/api/batches/{batch_id}/tests").json()


class TestSheets:
    def test_no_bar_is_judged_before_it_is_fit(self, client):
        batch = made(client)
        assert refused(judge(client, batch.id)) == "not_cut"
        send(client, batch.id, kind="cut", sure=True, bars=5)
        assert refused(judge(client, batch.id)) == "judged_before_fit"
        send(client, batch.id, kind="fit_tested", sure=True, ph=11.4)
        assert refused(judge(client, batch.id)) == "judged_before_fit"

    @pytest.mark.parametrize(
        ("sheet", "code"),
        [
            ({"scores": {}}, "nothing_judged"),
            ({"scores": {"sparkle": 3}}, "unknown_criterion"),
            ({"scores": {}, "measures": {"length": 3}}, "unknown_criterion"),
            ({"scores": {}, "measures": {"wear_g": -1}}, "not_a_measure"),
            ({"scores": {}, "measures": {"press_mm": 41}}, "not_a_measure"),
            ({"water_c": 95}, "not_washing_water"),
            ({"scores": {"bubbles": 6}}, "malformed_less_than_equal"),
            ({"scores": {"bubbles": 0}}, "malformed_greater_than_equal"),
            ({"tester": ""}, "malformed_string_too_short"),
        ],
    )
    def test_a_sheet_that_cannot_be_is_refused_and_nothing_is_kept(self, client, fit_batch, sheet, code):
        before = len(view_of(client, fit_batch.id)["events"])
        assert refused(judge(client, fit_batch.id, **sheet)) == code
        assert len(view_of(client, fit_batch.id)["events"]) == before

    def test_what_was_judged_stands_beside_what_was_predicted(self, client, fit_batch):
        assert judge(client, fit_batch.id).status_code == 200
        judge(client, fit_batch.id, tester="Ilmo", scores={"bubbles": 2}, measures={"wear_g": 8.0})
        told = view_of_tests(client, fit_batch.id)
        by_quality = {one["quality"]: one for one in told["predicted"]}
        # Runa: both words at 4 stand for 31 points; Ilmo: 2 for 13.
        assert by_quality["open_lather"]["judged"] == pytest.approx((31 + 13) / 2)
        assert by_quality["wear_life"]["judged"] == pytest.approx(28)
        assert by_quality["oxidation_load"]["judged"] is None
        assert told["testers"] == ["Ilmo", "Runa"]
        [age] = told["ages"]
        assert (age["sheets"], age["scores"]["bubbles"], age["measures"]) == (2, 3, {"wear_g": 8})

    def test_a_sheet_struck_no_longer_counts(self, client, fit_batch):
        seq = judge(client, fit_batch.id).json()["state"]["seq"]
        send(client, fit_batch.id, kind="struck", seq=seq, reason="the other bar")
        assert view_of_tests(client, fit_batch.id)["sheets"] == []
        assert client.get("/api/learning").json()["topics"][-1]["batches"] == 0

    def test_a_criterion_of_ones_own_is_judged_and_keeps_its_words(self, client, fit_batch):
        own = client.post(
            "/api/criteria", json={"name": "Swirl", "words": ["none", "hint", "lines", "clear", "wow"]}
        ).json()
        assert judge(client, fit_batch.id, scores={own["id"]: 5}).status_code == 200
        assert client.delete(f"/api/criteria/{own['id']}").status_code == 204
        assert own["id"] not in [one["id"] for one in client.get("/api/criteria").json()]
        # What was judged by it stays, and a sheet still open on another device is not refused.
        assert judge(client, fit_batch.id, scores={own["id"]: 4}).status_code == 200
        assert client.post(f"/api/criteria/{own['id']}/restore").status_code == 204
        assert client.delete("/api/criteria/own-no").status_code == 404

    @pytest.mark.parametrize("words", [["a", "b", "c", "d"], ["a", "b", "c", "d", " "]])
    def test_a_criterion_has_five_words(self, client, words):
        assert client.post("/api/criteria", json={"name": "Swirl", "words": words}).status_code == 422


class TestComparisons:
    @pytest.fixture
    def two(self, fit_batches):
        return fit_batches[:2]

    def start(self, client, batches, **changes):
        bars = [{"batch_id": one.id, "label": "as it likes"} for one in batches]
        body = {"question": "Which lathers better?", "bars": bars, "rounds": 6, "testers": ["Runa"]} | changes
        return client.post("/api/comparisons", json=body)

    def choose(self, client, comparison, round_, code):
        body = {"key": uuid4().hex, "event": {"kind": "chosen", "round": round_, "code": code}}
        return client.post(f"/api/comparisons/{comparison['id']}/events", json=body)

    def test_who_is_who_is_hidden_until_all_is_judged(self, client, two):
        comparison = self.start(client, two).json()
        label_of = {one.id: client.get(f"/api/batches/{one.id}/cure").json()["code"] for one in two}
        for i in range(6):
            view = client.get(f"/api/comparisons/{comparison['id']}").json()
            assert (view["rounds"], view["verdict"], view["is_done"]) == ([], None, False)
            [turn] = view["turns"]
            assert turn["round"] == i
            view = self.choose(client, comparison, i, turn["codes"][0]).json()
        assert view["is_done"]
        assert len(view["rounds"]) == 6
        assert view["verdict"]["bars"][0]["label"].startswith(tuple(label_of.values()))
        # Each stood left three times, and left was always chosen.
        assert view["verdict"]["standing"] == "not_yet"
        assert view_of_tests(client, two[0].id)["comparisons"][0]["id"] == comparison["id"]

    def test_the_same_choice_sent_twice_counts_once_and_a_second_one_is_refused(self, client, two):
        comparison = self.start(client, two).json()
        code = comparison["turns"][0]["codes"][1]
        body = {"key": "one-and-the-same", "event": {"kind": "chosen", "round": 0, "code": code}}
        for _ in range(2):
            view = client.post(f"/api/comparisons/{comparison['id']}/events", json=body).json()
            assert view["turns"][0]["judged"] == 1
        assert refused(self.choose(client, comparison, 0, code)) == "round_judged_already"

    def test_that_a_helper_saw_the_key_stands_in_the_record(self, client, two):
        comparison = self.start(client, two).json()
        key = client.post(f"/api/comparisons/{comparison['id']}/key", json={"key": uuid4().hex}).json()
        assert len(key) == 6
        assert client.get(f"/api/comparisons/{comparison['id']}").json()["key_shown_at"] is not None

    def test_bars_that_are_not_fit_are_not_compared(self, client, fit_batch):
        batch = made(client)
        send(client, batch.id, kind="cut", sure=True, bars=5)
        assert refused(self.start(client, (fit_batch, batch))) == "bars_not_fit"

    @pytest.mark.parametrize(
        "changes",
        [{"rounds": 0}, {"rounds": 61}, {"testers": []}, {"question": ""}, {"at_once": 4}, {"testers": [" "]}],
    )
    def test_a_setup_that_cannot_be_is_refused(self, client, two, changes):
        assert self.start(client, two, **changes).status_code == 422

    def test_it_is_archived_and_restored(self, client, two):
        comparison = self.start(client, two).json()
        client.delete(f"/api/comparisons/{comparison['id']}")
        assert client.get("/api/comparisons").json() == []
        client.post(f"/api/comparisons/{comparison['id']}/restore")
        assert len(client.get("/api/comparisons").json()) == 1
        assert client.get("/api/comparisons/none").status_code == 404


class TestTrials:
    @pytest.fixture
    def formula_id(self, client):
        return client.post("/api/formulas", json=Batch(client).run()["record"]["plan"]["formula"]).json()["id"]

    def asked(self, formula_id, **changes):
        levels = {"oil": "castor", "levels_percent": [2, 5, 8]}
        return {
            "formula_id": formula_id,
            "name": "How much castor?",
            "criterion": "bubbles",
            "levels": levels,
        } | changes

    def test_from_the_question_to_the_next_batch(self, client, formula_id):
        drawn = client.post("/api/trials/draw-up", json=self.asked(formula_id)).json()
        for run, level in zip(drawn["runs"], (2, 5, 8), strict=True):
            blend = {line["oil"]: line["value"] for line in run["formula"]["blend"]["lines"]}
            assert blend["castor"] == level
            assert sum(blend.values()) == pytest.approx(100)
            assert run["formula"]["blend"]["total_oils_g"] == 500
        trial = client.post("/api/trials", json=self.asked(formula_id)).json()
        assert trial["result"]["next"] is None
        for run in range(3):
            trial = client.post(f"/api/trials/{trial['id']}/runs/{run}/plan").json()
        assert [one["status"] for one in trial["batches"]] == ["planned"] * 3
        assert refused(client.post(f"/api/trials/{trial['id']}/runs/0/plan")) == "run_planned_already"
        assert refused(client.post(f"/api/trials/{trial['id']}/runs/9/plan")) == "no_such_run"
        for one, score in zip(trial["batches"], (2, 4, 4), strict=True):
            batch = Batch.__new__(Batch)
            batch.client, batch.id, batch.keys = client, one["batch_id"], 0
            batch.send(kind="started")
            batch.up_to("")
            batch.send(kind="finished")
            send(client, batch.id, kind="cut", sure=True, bars=4)
            send(client, batch.id, kind="fit_tested", sure=True, zap=False)
            for _ in range(6):
                judge(client, batch.id, scores={"bubbles": score})
        trial = client.get(f"/api/trials/{trial['id']}").json()
        assert [step["told"] for step in trial["result"]["steps"]] == ["surely", "close"]
        assert "5 %" in told(trial["result"]["next"]["words"])
        [brief] = view_of_tests(client, trial["batches"][1]["batch_id"])["trials"]
        assert brief["run"] == 1

    def test_a_test_batch_stands_in_the_smallest_mould_that_takes_it(self, client, formula_id):
        for name, length in (("Long", 400), ("Short", 140), ("Tiny", 40)):
            shape = {"kind": "loaf", "length_mm": length, "width_mm": 80, "height_mm": 70}
            client.put(f"/api/moulds/{name.lower()}", json={"name": name, "shape": shape})
        trial = client.post("/api/trials", json=self.asked(formula_id)).json()
        trial = client.post(f"/api/trials/{trial['id']}/runs/0/plan").json()
        plan = client.get(f"/api/batches/{trial['batches'][0]['batch_id']}").json()["plan"]
        assert plan["size"]["by"] == "oils_g"
        assert [use["mould"]["name"] for use in plan["moulds"]] in (["Short"], [])

    def test_a_design_of_three_oils(self, client, formula_id):
        formula = client.get(f"/api/formulas/{formula_id}").json()["formula"]
        oils = {line["oil"]: line["value"] for line in formula["blend"]["lines"][:3]}
        total = 5 * round(sum(oils.values()) / 5)
        design = {
            "oils": [{"oil": oil, "minimum_percent": 0, "maximum_percent": 60} for oil in oils],
            "total_percent": total, "step_percent": 5, "batches": 4,
        }  # fmt: skip
        asked = self.asked(formula_id, levels=None, design=design)
        drawn = client.post("/api/trials/draw-up", json=asked).json()
        assert all(sum(run["shares_percent"]) == pytest.approx(total) for run in drawn["runs"])
        assert client.post("/api/trials", json=asked).status_code == 201

    @pytest.mark.parametrize(
        ("changes", "code"),
        [
            ({"criterion": "sparkle"}, "unknown_criterion"),
            ({"levels": {"oil": "tallow", "levels_percent": [1, 2]}}, "oil_not_in_blend"),
            ({"levels": {"oil": "castor", "levels_percent": [5, 5]}}, "levels_alike"),
            ({"levels": {"oil": "castor", "levels_percent": [5, 100]}}, "level_not_a_share"),
            ({"levels": {"oil": "castor", "levels_percent": [5, -1]}}, "level_not_a_share"),
            ({"levels": None}, "one_kind_of_trial"),
        ],
    )
    def test_what_cannot_be_tried_says_why(self, client, formula_id, changes, code):
        assert refused(client.post("/api/trials", json=self.asked(formula_id, **changes))) == code

    @pytest.mark.parametrize(("oil", "told"), [("beeswax", "Beeswax"), ("none-such", "none-such")])
    def test_a_design_of_an_oil_that_the_blend_has_not_names_it(self, client, formula_id, oil, told):
        oils = [{"oil": one, "minimum_percent": 0, "maximum_percent": 60} for one in (oil, "coconut", "castor")]
        design = {"oils": oils, "total_percent": 100, "step_percent": 5, "batches": 4}
        answer = client.post("/api/trials/draw-up", json=self.asked(formula_id, levels=None, design=design))
        assert refused(answer) == "oil_not_in_blend"
        said = answer.json()["error"]["problems"][0]["message"]
        assert (
            "".join(part if isinstance(part, str) else part["text"] for part in said) == f"{told} is not in this blend."
        )


class TestLearning:
    def test_judged_bars_move_the_scale_of_a_formula_until_it_is_switched_off(self, client, fit_batches):
        formula = fit_batches[0].run()["record"]["plan"]["formula"]
        assert client.post("/api/compute/report", json=formula).json()["your_bars"] == []
        for batch in fit_batches:
            for tester in ("Runa", "Ilmo"):
                judge(client, batch.id, tester=tester, scores={"bubbles": 1, "bubble_size": 1})
        report = client.post("/api/compute/report", json=formula).json()
        [yours] = report["your_bars"]
        rule = next(one["points"] for one in report["result"]["qualities"] if one["quality"] == "open_lather")
        assert (yours["quality"], yours["batches"]) == ("open_lather", 3)
        assert yours["low"] < yours["points"] < rule - 5
        client.patch("/api/workshop", json={"learns": False})
        assert client.post("/api/compute/report", json=formula).json()["your_bars"] == []

    def test_what_was_predicted_before_the_batch_is_held_to(self, client, fit_batch):
        judge(client, fit_batch.id)
        learning = client.get("/api/learning").json()
        held = {one["topic"]: one for one in learning["held"]}
        [open_lather] = held["open_lather"]["held"]
        report = client.post("/api/compute/report", json=fit_batch.run()["record"]["plan"]["formula"]).json()
        rule = next(one["points"] for one in report["result"]["qualities"] if one["quality"] == "open_lather")
        assert open_lather["predicted"] == pytest.approx(rule, rel=1e-3)
        assert open_lather["seen"] == pytest.approx(31)
        assert learning["predicted"] == sum(len(one["held"]) for one in learning["held"])

    def test_other_loaves_move_the_hours_until_one_is_firm_until_that_is_switched_off(self, demo):
        def hours_of(code):
            [batch] = [one for one in demo.get("/api/batches").json()["batches"] if one["code"] == code]
            unmould = view_of(demo, batch["id"])["unmould"]
            return unmould["low_h"], unmould["high_h"]

        learned = hours_of("B-099")
        demo.patch("/api/workshop", json={"learns": False})
        by_rule = hours_of("B-099")
        assert learned[0] < by_rule[0]
        assert learned[1] - learned[0] < by_rule[1] - by_rule[0]

    def test_what_an_earlier_release_taught_is_added_up_anew(self, demo):
        stores = demo.app.state.stores
        before = {one: stores.cures.taught()[one] for one in stores.cures.taught()}
        stores.workshop.set_mark("taught_of", "an earlier one")
        with stores.engine.begin() as connection:
            connection.exec_driver_sql("DELETE FROM cure_taught")
        assert wants_teaching(stores)
        keep_missing_taught(stores)
        assert stores.cures.taught() == before
        assert not wants_teaching(stores)


class TestLessons:
    def test_a_note_ticked_off_comes_back_only_when_it_is_noted_again(self, client):
        formula = client.post("/api/formulas", json=Batch(client).run()["record"]["plan"]["formula"]).json()
        batch = fit(client, formula=formula["formula"], formula_id=formula["id"])
        address = f"/api/formulas/{formula['id']}/next-time"
        note = {"kind": "noted", "text": "Less coconut.", "next_time": True}
        send(client, batch.id, **note)
        assert client.put(address, json={"text": "Less coconut.", "heeded": True}).json()[0]["heeded_at"] is not None
        assert client.put(address, json={"text": "Less coconut.", "heeded": False}).json()[0]["heeded_at"] is None
        client.put(address, json={"text": "Less coconut.", "heeded": True})
        send(client, batch.id, **note)
        assert client.get(address).json()[0]["heeded_at"] is None
        assert client.put("/api/formulas/none/next-time", json={"text": "x", "heeded": True}).status_code == 404

    def test_the_life_of_a_formula_says_what_changed_and_what_it_did(self, demo):
        [formula] = [
            one for one in demo.get("/api/formulas").json()["formulas"] if one["name"] == "Hut guest bar"
        ]  # fmt: skip
        entries = demo.get(f"/api/formulas/{formula['id']}/timeline").json()
        assert {one["kind"] for one in entries} == {"version", "batch", "comparison", "trial", "lesson"}
        assert [one["at"] for one in entries] == sorted((one["at"] for one in entries), reverse=True)
        [second] = [one for one in entries if one["title"] == "Version 2"]
        assert any("Quick bubbles" in told(words) for words in second["text"])


class TestPicturesAndSchools:
    def test_a_picture_of_the_bars_is_kept_with_its_event(self, client):
        batch = made(client)
        address = f"/api/batches/{batch.id}/cure/pictures"
        for _ in range(2):
            view = client.post(
                address,
                params={"key": "one-picture", "name": "swirl.png"},
                content=PNG,
                headers={"content-type": "image/png"},
            ).json()
        [picture] = view["state"]["pictures"]
        assert kept(client.get(f"/api/batches/{batch.id}/photos/{picture['file_id']}").content).size == (60, 40)
        refusal = client.post(
            address, params={"key": "no-picture"}, content=b"<svg>", headers={"content-type": "image/png"}
        )
        assert refusal.status_code == 422
        assert refused(
            client.post(
                f"/api/batches/{Batch(client).id}/cure/pictures", params={"key": "too-early"}, content=PNG,
                headers={"content-type": "image/png"},
            )
        ) == "not_poured"  # fmt: skip

    def test_ready_by_the_usual_weeks_where_that_counts(self, client, fit_batch):
        def listed():
            [row] = client.get("/api/batches").json()["batches"]
            return row["cure"]["ready_at"][:19]

        by_weight = view_of(client, fit_batch.id)
        assert listed() == by_weight["ready_at"][:19]
        client.patch("/api/workshop", json={"ready_by": "weeks"})
        by_weeks = view_of(client, fit_batch.id)
        assert by_weeks["ready_at"] == by_weight["ready_by_weeks"] != by_weight["ready_at"]
        # It is fit for use, and was listed before: the list follows all the same.
        assert listed() == by_weeks["ready_at"][:19]

    def test_a_cutter_is_kept_and_one_that_cannot_be_is_refused(self, client):
        cutter = {"name": "Harp", "gaps_mm": [25, 25, 30], "kerf_mm": 0.4}
        assert client.patch("/api/workshop", json={"cutters": [cutter]}).json()["cutters"] == [cutter]
        assert refused(client.patch("/api/workshop", json={"cutters": [cutter | {"gaps_mm": [0]}]}))
        assert client.get("/api/workshop").json()["cutters"] == [cutter]


def test_bars_that_were_never_judged_are_asked_for(demo):
    kinds = {(one["kind"], one["code"]) for one in demo.get("/api/today").json()["due"]}
    assert ("judge", "B-092") not in kinds
    assert {one["kind"] for one in demo.get("/api/coming", params={"days": 7}).json()} >= {"turn", "weigh"}
