"""The catalogue of saponifiable materials: what each oil is, and the result the calculation takes from it."""

from collections.abc import Iterable, Iterator, Mapping
from functools import cache, cached_property
from typing import Any, Literal

from pydantic import Field

from sapolin.core.materials.fatty_acids import ACIDS, Profile
from sapolin.core.quantities.model import Model, Range
from sapolin.core.quantities.tables import table
from sapolin.data import read_json, read_table

__all__ = ["Catalogue", "CatalogueError", "MixtureComponent", "Oil", "Source", "catalogue", "missing_of", "sources"]

LANGUAGES = frozenset({"en", "de", "fr", "es"})
"""Every oil has a name for labels in these."""


class Source(Model):
    """Where values come from."""

    id: str
    title: str
    covers: str


class MixtureComponent(Model):
    """A part of a mixed material."""

    oil: str
    """Id of an single oil."""
    share_percent: float
    """Of the mixture, %; what is missing to 100 is filler that no lye touches."""


class Oil(Model):
    """One saponifiable material: oil, butter or fat."""

    id: str
    """Stable; formulas refer to oils by it."""
    name: str
    synonyms: tuple[str, ...]
    """Other words a maker may search by."""
    inci: str
    inci_sodium_soap: str
    inci_potassium_soap: str
    inci_soap: Literal["listed", "constructed"] = "constructed"
    """Whether the names of its soaps stand in the nomenclature, or are built here as it builds them: look those up before they
    are printed on a label."""
    kind: Literal["triglyceride", "free_acid", "wax"]
    """Free acids make soap without glycerol; of a wax, the alcohol half never becomes soap."""
    sap_koh_mg_per_g: Range
    """Saponification value, mg KOH per g of oil (ISO 3657)."""
    iodine_value: Range
    """As listed, g I2 per 100 g."""
    unsaponifiable_percent: Range
    melting_c: Range
    state_at_20_c: Literal["solid", "liquid"]
    """Solid oils are what makers call hard, liquid ones soft."""
    density_g_per_ml: float
    """Of the melt, carried on to 20 °C where it is solid."""
    origin: str
    origin_kind: Literal["plant", "animal"]
    palm_derived: Literal["yes", "no", "maybe"]
    vegan: Literal["yes", "no", "maybe"]
    allergens: str
    """Allergen groups, empty when none is commonly declared."""
    shelf_life_months: int
    """Typical, unopened, cool and dark."""
    jobs: str
    """What it does in a bar, in a few words."""
    cautions: str
    sources: tuple[str, ...]
    """Ids of the sources of these values."""
    audit_note: str
    """Why a listed quantity may differ from the one its composition gives; empty when it agrees."""
    acids_percent: tuple[Range, ...] = Field(min_length=len(ACIDS), max_length=len(ACIDS))
    """Mass percent of all fatty acids, one range per acid in the order of the acid table."""
    other_percent: float
    """Fatty acids outside the table, mass percent; with the typical `acids_percent` it sums to 100."""
    components: tuple[MixtureComponent, ...] = ()
    """What a mixture is made of, down to single oils; empty for an oil that is none."""
    known_profile_percent: float = 100.0
    """The part of it whose fatty acids are known, %; qualities say nothing of the rest."""

    @cached_property
    def profile(self) -> Profile:
        """What it brings to a blend's fatty acids, mass percent, in the order of the acid table.

        Its typical composition; of a wax only the part that is fatty acid counts, the rest is unsaponifiable.
        """
        return tuple(acid.typical * self.fatty_share for acid in self.acids_percent)

    @property
    def fatty_share(self) -> float:
        """The part of it that counts as fatty acid: all of a fat (its few unsaponifiables are not split off)."""
        return 1 - self.unsaponifiable_percent.typical / 100 if self.kind == "wax" else 1.0

    @cached_property
    def acid_ends(self) -> tuple[tuple[float, float, float], ...]:
        """Typical, lowest and highest percent of each acid, in the order of the acid table."""
        return tuple((acid.typical, acid.minimum, acid.maximum) for acid in self.acids_percent)

    @property
    def pieces(self) -> tuple[tuple[str, float], ...]:
        """The single oils it is made of, each with its share in percent; itself when it is no mixture."""
        if not self.components:
            return ((self.id, 100.0),)
        return tuple((component.oil, component.share_percent) for component in self.components)

    @cached_property
    def allergen_groups(self) -> frozenset[str]:
        """Allergen groups without the notes behind them, such as `tree nuts`."""
        return frozenset(word.partition(" (")[0] for word in _words(self.allergens))

    @property
    def is_hard(self) -> bool:
        """Solid at 20 C."""
        return self.state_at_20_c == "solid"

    @cached_property
    def group(self) -> str:
        """The group of fatty acids (see :class:`~sapolin.core.materials.fatty_acids.Acid`) that makes this oil what it is: of
        the saturated groups the largest when it is solid, of all groups the largest when it is liquid."""
        sums: dict[str, float] = {}
        for acid, share in zip(ACIDS, self.profile, strict=True):
            if acid.double_bonds == 0 or not self.is_hard:
                sums[acid.group] = sums.get(acid.group, 0.0) + share
        return max(sums, key=lambda group: sums[group])


class Catalogue(Mapping[str, Oil]):
    """Oils by id, in the order of the table."""

    def __init__(self, oils: tuple[Oil, ...]) -> None:
        self._oils = {oil.id: oil for oil in oils}

    def __getitem__(self, oil_id: str) -> Oil:
        return self._oils[oil_id]

    def __iter__(self) -> Iterator[str]:
        return iter(self._oils)

    def __len__(self) -> int:
        return len(self._oils)

    def with_oils(self, added: Iterable[Oil]) -> "Catalogue":
        """This catalogue and `added` behind it."""
        return Catalogue((*self._oils.values(), *added))


def _words(cell: str) -> tuple[str, ...]:
    return tuple(word for word in (component.strip() for component in cell.split(";")) if word)


_RANGES = ("sap_koh_mg_per_g", "iodine_value", "unsaponifiable_percent", "melting_c")
_LISTS = ("synonyms", "sources")
_NOTHING = Range(typical=0.0, minimum=0.0, maximum=0.0)


def _oil(row: Mapping[str, str]) -> Oil:
    acid_ids = {acid.id for acid in ACIDS}
    plain = {
        column: cell
        for column, cell in row.items()
        if column not in acid_ids and column not in (*_RANGES, *_LISTS, "other")
    }
    return Oil.model_validate(
        plain
        | {column: Range.parse(row[column]) for column in _RANGES}
        | {column: _words(row[column]) for column in _LISTS}
        | {
            "acids_percent": tuple(Range.parse(row[acid.id]) if row[acid.id] else _NOTHING for acid in ACIDS),
            "other_percent": float(row["other"]),
        }
    )


def catalogue() -> Catalogue:
    """The catalogue that ships with Sapolin, or the one in its place (see :mod:`sapolin.core.quantities.tables`)."""
    return table("oils", _shipped())


class CatalogueError(Exception):
    """The tables of materials do not fit together; the message says row by row what is missing, and where it belongs."""


@cache
def _shipped() -> Catalogue:
    found = Catalogue(tuple(_oil(row) for row in read_table("oils")))
    faults = tuple(missing_of(found, read_json("usual_shares"), read_json("label_names")["oils"]))
    if faults:
        raise CatalogueError("The catalogue is not whole. " + " ".join(faults))
    return found


def missing_of(
    oils: Iterable[str], share_classes: Iterable[Mapping[str, Any]], label_names: Mapping[str, Mapping[str, str]]
) -> Iterator[str]:
    """What the tables beside that of oils do not say of each oil, a sentence each.

    >>> names = {"lard": {"en": "lard", "de": "Schmalz", "fr": "saindoux", "es": "manteca"}}
    >>> [*missing_of(["lard"], [{"id": "palm", "oils": ["lard"]}], names)]
    []
    >>> print(*missing_of(["lard"], [], {"lard": {"en": "lard"}}), sep="\\n")
    “lard” has no usual share: add it to a class in usual_shares.json.
    “lard” has no name in de, es, fr: add it to label_names.json.
    """
    with_shares = {oil for one in share_classes for oil in one["oils"]}
    for oil in oils:
        if oil not in with_shares:
            yield f"“{oil}” has no usual share: add it to a class in usual_shares.json."
        unnamed = sorted(LANGUAGES - {language for language, name in label_names.get(oil, {}).items() if name})
        if unnamed:
            yield f"“{oil}” has no name in {', '.join(unnamed)}: add it to label_names.json."


@cache
def sources() -> dict[str, Source]:
    """Every source that a quantity may cite, by id."""
    return {key: Source(id=key, **entry) for key, entry in read_json("sources").items()}
