"""What is written under a field stands in the schemas."""

from typing import Annotated

from pydantic import Field

from sapolin.core.quantities.model import Model


class Weighed(Model):
    weight_g: float
    """What the scale shows,

    in grams."""
    zero_g: Annotated[float, Field(description="of its own")] = 0.0
    """Not this."""
    note: str = ""


class Poured(Weighed):
    note: str = ""
    """Said of the pour."""
    into: Weighed | None = None


def descriptions(model: type[Model]) -> dict[str, str]:
    fields = model.model_json_schema()["properties"]
    return {name: entry["description"] for name, entry in fields.items() if "description" in entry}


def test_each_field_has_its_own_words_or_those_of_what_it_is_made_from():
    own = {"weight_g": "What the scale shows,\n\nin grams.", "zero_g": "of its own"}
    assert descriptions(Weighed) == own
    assert descriptions(Poured) == own | {"note": "Said of the pour."}
    assert Poured.model_json_schema()["$defs"]["Weighed"]["properties"]["weight_g"]["description"] == own["weight_g"]


def test_a_model_without_a_source_has_none():
    class Inside(Model):
        weight_g: float
        """Nobody looks for it here."""

    assert descriptions(Inside) == {}
