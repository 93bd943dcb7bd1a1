"""The trials and blind comparisons of the made-up workshop: one that is clear, one that cannot tell yet, one half judged."""

from datetime import UTC, datetime, timedelta
from typing import Any

from sapolin.core.trials.comparison import Chosen, ComparedBar, ComparisonSetup, drawn
from sapolin.services.trial_sets import TrialAsked, start_trial
from sapolin.store.formulas import FormulaRecord
from sapolin.store.stores import Stores

__all__ = ["days_ago", "fill_comparisons", "start_trials"]


def days_ago(days: float) -> str:
    """A time so many days before now."""
    return (datetime.now(UTC) - timedelta(days=days)).isoformat(timespec="milliseconds")


def start_trials(
    trials: list[dict[str, Any]], formulas: dict[str, FormulaRecord], stores: Stores
) -> list[dict[str, Any]]:
    """Keep the trials; returns what their batches are made from: how their days went, which formula, which run they are."""
    entries = []
    for trial in trials:
        levels = {"oil": trial["oil"], "levels_percent": trial["levels"]}
        asked = {"formula_id": formulas[trial["formula"]].id, "name": trial["name"], "criterion": trial["criterion"]}
        at = days_ago(trial["runs"][0]["days_ago"] + 2)
        kept = start_trial(TrialAsked.model_validate(asked | {"levels": levels}), stores, at)
        for i, (run, setup) in enumerate(zip(trial["runs"], kept.setup.runs, strict=True)):
            formula = stores.formulas.create(setup.formula)
            formulas[formula.formula.name] = formula
            # A trial that is over clutters no list.
            stores.formulas.delete(formula.id)
            plan = {"size": {"by": "oils_g", "value": 500.0}, "moulds": [{"mould": "short-loaf"}]}
            entries.append(
                run
                | {"like": "B-101", "formula": formula.formula.name, "version": 0, "plan": plan, "run": (kept.id, i)}
            )
    return entries


def fill_comparisons(comparisons: list[dict[str, Any]], batches: dict[str, str], stores: Stores) -> None:
    """Keep the comparisons, judged as far as they were; `batches` are ids by code."""
    for entry in comparisons:
        names = {code: stores.batches.get(batches[code]).plan.formula.name for code in entry["bars"]}
        bars = tuple(ComparedBar(batch_id=batches[code], label=f"{code} {names[code]}") for code in entry["bars"])
        setup = ComparisonSetup(
            question=entry["question"], bars=bars, rounds=entry["rounds"], testers=tuple(entry["testers"])
        )  # fmt: skip
        kept = stores.comparisons.create(drawn(setup, entry["seed"]), days_ago(entry["days_ago"]))
        for i, code in enumerate(entry["chosen"]):
            side_by_side = kept.comparison.rounds[i]
            bar = None if code is None else entry["bars"].index(code)
            chosen = None if bar is None else side_by_side.codes[side_by_side.bars.index(bar)]
            at = datetime.now(UTC) - timedelta(days=entry["days_ago"], minutes=-10 * i)
            stores.comparisons.add_event(
                kept.id, f"demo-choice-{i:04d}", Chosen(kind="chosen", round=i, code=chosen), lambda _: None,
                at.isoformat(timespec="milliseconds"),
            )  # fmt: skip
