"""Recipes from paper: read line by line, and made a formula once the maker has said which oils are meant."""

from typing import Annotated

from pydantic import Field

from sapolin.api.room import room
from sapolin.core.formula.document import Formula
from sapolin.core.formula.recipe import MOST_LINES, RecipeOil, RecipeRead, formula_of_recipe, read_recipe
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.quantities.model import FiniteNumber, Model, Truth

__all__ = ["router"]

router = room("/api/recipes", "recipes")


class Paper(Model):
    """A recipe as it is written."""

    text: Annotated[str, Field(max_length=8000)]


class ChosenRecipe(Model):
    """A recipe with every oil chosen."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    oils: Annotated[tuple[RecipeOil, ...], Field(min_length=1, max_length=MOST_LINES)]
    superfat_percent: Annotated[FiniteNumber, Field(ge=0, le=40)] | None = None
    is_koh: Truth = False
    """The paper says KOH."""
    notes: Annotated[str, Field(max_length=4000)] = ""
    """What else stands on it."""


@router.post("/read", summary="Read a recipe")
def read(paper: Paper) -> RecipeRead:
    """Amounts in g, kg, oz, lb or %, in any order. A name that is not that of one oil alone comes with suggestions; nothing is
    guessed. Lye and water are named as such, since they are calculated anew.
    """
    return read_recipe(paper.text, catalogue())


@router.post("/formula", summary="The formula of a recipe")
def make_formula(recipe: ChosenRecipe) -> Formula:
    """Not kept yet. Its lye waits for the purity of the tub; without a superfat it has the usual one."""
    return formula_of_recipe(
        recipe.name, recipe.oils, recipe.superfat_percent, is_koh=recipe.is_koh, notes=recipe.notes
    )
