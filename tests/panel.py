"""The panel: requests that makers have, each with what a maker would accept as an answer. `./run panel` shows it as a table.

Of every first answer is asked: all targets met, none on the very end of its range; nothing that the rule book warns of; no more
of a class of oils than makers use; no oil below a sensible share; and what the request itself says.
"""

import json
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from sapolin.core.formula.purposes import purposes
from sapolin.core.formula.usual import usual_of
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.usual_shares import class_of, share_classes
from sapolin.core.optimise.solve import answer_solve
from sapolin.exchange.question_document import read_question, solve_answer_document

FILE = Path(__file__).parent / "core" / "panel.json"
MARGIN = 0.3
"""Points from the end of a range, where the range has an end there."""
CHANCE_PERCENT = 60.0


def requests() -> list[dict[str, Any]]:
    return json.loads(FILE.read_text(encoding="utf-8"))


def answered(request: dict[str, Any]) -> tuple[Any, dict[str, Any]]:
    """The question of a request, and its answer as the command line prints it."""
    document = {"format": "sapolin-question", "format_version": 1} | request["question"]
    question = read_question(json.dumps(document).encode())
    return question, solve_answer_document(question, answer_solve(question, clock=time.monotonic))


def objections(request: dict[str, Any], question: Any, answer: dict[str, Any]) -> Iterator[str]:
    """What a maker would hold against the first answer."""
    accept = request.get("accept", {})
    if not answer["blends"]:
        yield "no blend"
        return
    first = answer["blends"][0]
    shares = {one["oil"]: one["share_percent"] for one in first["oils"]}
    purpose = purposes()[question.formula.purpose]
    if first["misses"]:
        yield f"misses {', '.join(miss['target'] for miss in first['misses'])}"
    keeps_itself = accept.get("changed_at_most") == 0 or accept.get("edges", False)
    for target in question.targets:
        value = first["values"][target.feature]
        ends = [target.minimum or None, target.maximum]
        if (
            target.feature == "price_per_kg" or keeps_itself
        ):  # A formula that stays, or one of few oils, has no such choice.
            continue
        if any(end is not None and abs(value - end) < MARGIN for end in ends):
            yield f"{target.feature} on the edge"
    warned = [one["code"] for one in first["diagnostics"] if one["severity"] != "note"]
    if warned:
        yield f"warned: {', '.join(warned)}"
    by_class: dict[str, float] = {}
    for oil, share in shares.items():
        of = class_of(catalogue()[oil])
        by_class[of.id] = by_class.get(of.id, 0.0) + share
        if share < min(of.least, 3.0) - 1e-9:
            yield f"{oil} {share} % is not worth weighing"
    for of, share in by_class.items():
        if share > usual_of(share_classes()[of], purpose).most + 1e-6:
            yield f"{share:.0f} % {of}"
    if not accept.get("fewest_oils", 3) <= len(shares) <= question.most_oils:
        yield f"{len(shares)} oils"
    if first["chance_in_range_percent"] < accept.get("chance_at_least", CHANCE_PERCENT) and not keeps_itself:
        yield f"holds in only {first['chance_in_range_percent']:.0f} of 100"
    yield from _own_rules(accept, first, shares, by_class)


def _own_rules(
    accept: dict[str, Any], first: dict[str, Any], shares: dict[str, float], by_class: dict[str, float]
) -> Iterator[str]:
    for oil, least in accept.get("holds", {}).items():
        if shares.get(oil, 0.0) < least - 1e-6:
            yield f"too little {oil}"
    for oil, most in accept.get("at_most", {}).items():
        if shares.get(oil, 0.0) > most + 1e-6:
            yield f"too much {oil}"
    for of, least in accept.get("class_at_least", {}).items():
        if by_class.get(of, 0.0) < least - 1e-6:
            yield f"too little {of}"
    for of in accept.get("none_of_class", []):
        if by_class.get(of, 0.0) > 0:
            yield f"holds {of}"
    for name, key in (("superfat", "superfat_percent"), ("koh", "koh_percent_of_saponification")):
        low, high = accept.get(name, (None, None))
        if low is not None and not low - 0.01 <= first[key] <= high + 0.01:
            yield f"{name} {first[key]}"
    for feature, most in accept.get("value_at_most", {}).items():
        if first["values"][feature] > most:
            yield f"{feature} {first['values'][feature]}"
    if "price_at_most" in accept and (first["price_per_kg"] or 1e9) > accept["price_at_most"]:
        yield f"costs {first['price_per_kg']}"
    if "changed_at_most" in accept and first["changed_percent"] > accept["changed_at_most"] + 1e-6:
        yield f"changes {first['changed_percent']} points"


def main() -> int:
    accepted = 0
    every = requests()
    for request in every:
        question, answer = answered(request)
        found = [*objections(request, question, answer)]
        accepted += not found
        blend = "; ".join(
            f"{catalogue()[one['oil']].name} {one['share_percent']:g}"
            for one in (answer["blends"] or [{"oils": []}])[0]["oils"]
        )
        print(f"{'  ' if not found else '✕ '}{request['request']:<52} {blend}")
        if found:
            print(f"    {'; '.join(found)}")
    print(f"{accepted} of {len(every)} accepted")
    return 0 if accepted == len(every) else 1


if __name__ == "__main__":
    sys.exit(main())
