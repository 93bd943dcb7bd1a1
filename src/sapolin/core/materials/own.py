"""The maker's own materials: oils the catalogue does not hold, certificates that know better, and mixtures.

A formula carries the materials it names, so that it means the same on every machine and in every year.
"""

from collections.abc import Iterator, Sequence
from typing import Annotated, Any, Literal

from pydantic import Field

from sapolin.core.materials.catalogue import Catalogue, MixtureComponent, Oil
from sapolin.core.materials.fatty_acids import ACID_INDEX, ACIDS, iodine_value_of, sap_of_triglyceride_koh_mg_per_g
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import Diagnostic, Offer, diagnostic, stopping
from sapolin.core.quantities.model import EntryId, FiniteNumber, Model, Range, Truth
from sapolin.core.quantities.molar_masses import NAOH_PER_KOH
from sapolin.core.quantities.text import listed_with_or, number, percent, plain, template, text

__all__ = ["ByProfile", "BySap", "Certificate", "OwnMaterial", "Recipe", "RecipeComponent", "material_problems",
           "named_materials", "starting_materials", "with_materials", "with_sound_materials"]  # fmt: skip

NAOH_MG_TO_KOH_MG = 1 / NAOH_PER_KOH
FAT_SAP = (80.0, 400.0)
"""From the poorest wax to beyond tributyrin's neighbours, mg KOH/g: no saponifiable material lies outside."""
USUAL_FAT_SAP = (165.0, 290.0)
"""Where fats lie, mg KOH/g; below it are waxes, and result told in NaOH."""
IODINE_VALUE = (0.0, 250.0)
"""From fully hydrogenated fat to beyond perilla, g iodine/100 g."""
PROFILE_SUM_PERCENT = (95.0, 101.0)
SAP_MISMATCH = 0.03
MAX_COMPONENTS = 20


class ByProfile(Model):
    """An oil known by its fatty acids."""

    kind: Literal["profile"]
    acids_percent: dict[str, FiniteNumber]
    """Percent of all fatty acids, by acid id such as `C18:1`."""
    sap_koh_mg_per_g: FiniteNumber | None = None
    """SAP value, mg KOH/g; null calculates it from the acids as a triglyceride."""
    unsaponifiable_percent: FiniteNumber = 0.5
    solid_at_20_c: Truth


class BySap(Model):
    """An oil of which only the SAP value is known: its lye can be calculated, its qualities cannot."""

    kind: Literal["sap"]
    sap_koh_mg_per_g: FiniteNumber | None
    """SAP value, mg KOH/g."""
    solid_at_20_c: Truth


class Certificate(Model):
    """A catalogue oil with the result of a supplier's certificate in place of the typical ones."""

    kind: Literal["certificate"]
    of: EntryId
    """Id of the catalogue oil."""
    sap_koh_mg_per_g: FiniteNumber | None = None
    iodine_value: FiniteNumber | None = None
    acids_percent: dict[str, FiniteNumber] | None = None
    """Measured percent of all fatty acids; null keeps the typical ones."""


class RecipeComponent(Model):
    """A part of a mixture."""

    oil: EntryId
    """Id in the catalogue, or of another own material."""
    share_percent: FiniteNumber | None


class Recipe(Model):
    """A bottled blend, a master blend, or an oil cut with filler: it counts as its parts."""

    kind: Literal["recipe"]
    components: tuple[RecipeComponent, ...] = Field(max_length=MAX_COMPONENTS)
    filler_percent: FiniteNumber = 0.0
    """Part that no lye touches, such as mineral oil in a soap grade mix, %."""


class OwnMaterial(Model):
    """A material of the maker's own."""

    id: Annotated[str, Field(pattern=r"^own-[a-z0-9-]{1,70}$")]
    name: Annotated[str, Field(min_length=1, max_length=120)]
    notes: Annotated[str, Field(max_length=2000)] = ""
    """Supplier, lot, what the certificate says."""
    allergens: Annotated[str, Field(max_length=200)] = ""
    """Allergen groups, separated by semicolons; those of the parts of a mixture are added by themselves."""
    palm_derived: Literal["yes", "no", "maybe"] = "maybe"
    """Of an oil by profile or by SAP alone; certificates and mixtures take it from what they are made of."""
    vegan: Literal["yes", "no", "maybe"] = "maybe"
    content: Annotated[ByProfile | BySap | Certificate | Recipe, Field(discriminator="kind")]


def starting_materials() -> dict[str, OwnMaterial]:
    """A material of each kind with all that matters still to be entered, by the kind of what is known of it.

    >>> list(starting_materials())
    ['certificate', 'profile', 'sap', 'recipe']
    """
    known = (
        Certificate(kind="certificate", of="coconut"),
        ByProfile(kind="profile", acids_percent={}, solid_at_20_c=False),
        BySap(kind="sap", sap_koh_mg_per_g=None, solid_at_20_c=False),
        Recipe(kind="recipe", components=()),
    )
    name = template("own.new")
    return {content.kind: OwnMaterial(id="own-new", name=name, content=content) for content in known}


def _sap_offers(value: float) -> list[Offer]:
    """What a SAP value that cannot be may have been meant as, the likeliest first."""
    meanings = (
        (value * 1000 * NAOH_MG_TO_KOH_MG, "naoh_g"),
        (value * 1000, "koh_g"),
        (value * NAOH_MG_TO_KOH_MG, "naoh_mg"),
        (value * 10, "slip"),
        (value / 10, "slip"),
    )
    low, high = USUAL_FAT_SAP
    return [
        Offer(value=round(sap, 1), label=text(f"sap_meant.{meant}", sap=number(sap, 0)))
        for sap, meant in meanings
        if low <= sap <= high
    ]


def _sap_problems(value: float | None, path: str) -> Iterator[Diagnostic]:
    if value is None:
        yield stopping("missing_sap", path, is_open=True)
        return
    low, high = FAT_SAP
    offers = _sap_offers(value)
    if not low <= value <= high:
        meant = listed_with_or([plain(offer.label) for offer in offers])
        yield stopping(
            "sap_impossible" if offers else "sap_far_off", path, offers=offers, value=number(value), low=number(low),
            high=number(high), meant=meant,
        )  # fmt: skip
    elif value < USUAL_FAT_SAP[0] and offers:
        yield diagnostic(
            "sap_unusual", "warning", path, offers=offers, value=number(value), meant=plain(offers[0].label)
        )  # fmt: skip


def _acid_problems(acids: dict[str, float], path: str) -> Iterator[Diagnostic]:
    for acid, share in acids.items():
        if acid not in ACID_INDEX:
            yield stopping("unknown_acid", f"{path}.{acid}", acid=acid, known=", ".join(ACID_INDEX))
        elif not 0 <= share <= 100:
            yield stopping("acid_out_of_range", f"{path}.{acid}", acid=acid, value=percent(share))
    total = sum(acids.values())
    low, high = PROFILE_SUM_PERCENT
    if not low <= total <= high:
        yield stopping("profile_sum", path, sum=percent(total), low=number(low), high=percent(high))


def _full_profile(acids: dict[str, float]) -> tuple[float, ...]:
    return tuple(acids.get(acid.id, 0.0) for acid in ACIDS)


def _content_problems(material: OwnMaterial, base: Catalogue, own: set[str], path: str) -> Iterator[Diagnostic]:
    content = material.content
    if isinstance(content, BySap):
        yield from _sap_problems(content.sap_koh_mg_per_g, f"{path}.sap_koh_mg_per_g")
    elif isinstance(content, ByProfile):
        acid_problems = [*_acid_problems(content.acids_percent, f"{path}.acids_percent")]
        yield from acid_problems
        if not 0 <= content.unsaponifiable_percent < 100:
            value = percent(content.unsaponifiable_percent)
            yield stopping("unsaponifiables_out_of_range", f"{path}.unsaponifiable_percent", value=value)
        elif content.sap_koh_mg_per_g is not None and not acid_problems:
            yield from _sap_problems(content.sap_koh_mg_per_g, f"{path}.sap_koh_mg_per_g")
            yield from _mismatch(content, f"{path}.sap_koh_mg_per_g")
    elif isinstance(content, Certificate):
        if content.of not in base:
            yield stopping("unknown_certified_oil", f"{path}.of", oil=content.of)
        if content.sap_koh_mg_per_g is not None:
            yield from _sap_problems(content.sap_koh_mg_per_g, f"{path}.sap_koh_mg_per_g")
        low, high = IODINE_VALUE
        if content.iodine_value is not None and not low <= content.iodine_value <= high:
            yield stopping(
                "iodine_out_of_range", f"{path}.iodine_value", value=number(content.iodine_value), low=number(low),
                high=number(high),
            )  # fmt: skip
        if content.acids_percent is not None:
            yield from _acid_problems(content.acids_percent, f"{path}.acids_percent")
    else:
        yield from _recipe_problems(content, base, own, path)


def _mismatch(content: ByProfile, path: str) -> Iterator[Diagnostic]:
    computed = sap_of_triglyceride_koh_mg_per_g(_full_profile(content.acids_percent), content.unsaponifiable_percent)
    listed_sap = content.sap_koh_mg_per_g or 0.0
    if FAT_SAP[0] <= listed_sap <= FAT_SAP[1] and abs(listed_sap - computed) > SAP_MISMATCH * listed_sap:
        offer = Offer(value=round(computed, 1), label=text("sap_meant.from_acids", sap=number(computed, 1)))
        yield diagnostic(
            "sap_disagrees", "warning", path, offers=(offer,), value=number(listed_sap), computed=number(computed, 1)
        )  # fmt: skip


def _recipe_problems(content: Recipe, base: Catalogue, own: set[str], path: str) -> Iterator[Diagnostic]:
    if not content.components:
        yield stopping("no_components", f"{path}.components", is_open=True)
        return
    for i, component in enumerate(content.components):
        if component.oil not in base and component.oil not in own:
            yield stopping("unknown_component", f"{path}.components[{i}].oil", oil=component.oil)
        if component.share_percent is None or not 0 < component.share_percent <= 100:
            yield stopping("component_out_of_range", f"{path}.components[{i}].share_percent")
    if not 0 <= content.filler_percent < 100:
        yield stopping("filler_out_of_range", f"{path}.filler_percent", value=percent(content.filler_percent))
    total = sum(component.share_percent or 0.0 for component in content.components) + content.filler_percent
    if abs(total - 100) > 0.05:
        yield stopping("components_not_100", f"{path}.components", sum=percent(total))


def _own_components(material: OwnMaterial) -> list[str]:
    return [component.oil for component in material.content.components] if isinstance(material.content, Recipe) else []


def _cycles(materials: Sequence[OwnMaterial], prefix: str) -> Iterator[Diagnostic]:
    by_id = {material.id: material for material in materials}

    def reaches(start: str, goal: str, seen: set[str]) -> bool:
        for component in _own_components(by_id[start]):
            if component == goal:
                return True
            if component in by_id and component not in seen and reaches(component, goal, seen | {component}):
                return True
        return False

    for i, material in enumerate(materials):
        if reaches(material.id, material.id, set()):
            yield stopping("cycle", f"{prefix}[{i}].content.components", name=material.name)


def material_problems(
    materials: Sequence[OwnMaterial], base: Catalogue, prefix: str = "materials"
) -> tuple[Diagnostic, ...]:
    """Everything to say about `materials`, each at its entry below `prefix`."""
    own = {material.id for material in materials}
    found: list[Diagnostic] = []
    for i, material in enumerate(materials):
        if sum(other.id == material.id for other in materials) > 1:
            found.append(stopping("twice", f"{prefix}[{i}].id", id=material.id))
        if material.id in base:
            found.append(stopping("taken", f"{prefix}[{i}].id", id=material.id))
        found += _content_problems(material, base, own, f"{prefix}[{i}].content")
    return (*found, *_cycles(materials, prefix))


def named_materials(names: Sequence[str], materials: Sequence[OwnMaterial]) -> tuple[OwnMaterial, ...]:
    """Those of `materials` that `names` name, and those their recipes name, parts before what holds them."""
    by_id = {material.id: material for material in materials}
    found: dict[str, OwnMaterial] = {}

    def take(name: str, above: frozenset[str]) -> None:
        if name in by_id and name not in found and name not in above:
            for component in _own_components(by_id[name]):
                take(component, above | {name})
            found[name] = by_id[name]

    for name in names:
        take(name, frozenset())
    return tuple(found.values())


def with_materials(base: Catalogue, materials: Sequence[OwnMaterial]) -> Catalogue:
    """`base` with sound `materials` in it as oils that behave as what they are made of."""
    if not materials:
        return base
    oils = base
    for material in named_materials([material.id for material in materials], materials):
        oils = oils.with_oils((_oil_of(material, oils),))
    return oils


def with_sound_materials(base: Catalogue, materials: Sequence[OwnMaterial]) -> Catalogue:
    """`base` with `materials` in it where all of them stand; where not, without any, until they are put right."""
    if any(problem.stops_calculation for problem in material_problems(materials, base)):
        return base
    return with_materials(base, materials)


_OWN = ("own",)
_UNKNOWN = Range(typical=0.0, minimum=0.0, maximum=0.0)


def _exact(value: float) -> Range:
    return Range(typical=value, minimum=value, maximum=value)


def _certified(value: float) -> Range:
    spread = coefficient("sap_certificate_spread")
    return Range(typical=value, minimum=value * (1 - spread), maximum=value * (1 + spread))


def _plain(material: OwnMaterial, *, solid: bool, **result: Any) -> Oil:
    values: dict[str, Any] = {
        "id": material.id, "name": material.name, "synonyms": (), "inci": "", "inci_sodium_soap": "",
        "inci_potassium_soap": "", "kind": "triglyceride", "iodine_value": _UNKNOWN, "unsaponifiable_percent": _UNKNOWN,
        "melting_c": _UNKNOWN, "state_at_20_c": "solid" if solid else "liquid", "density_g_per_ml": 0.915,
        "origin": template("own.origin"), "origin_kind": "animal" if material.vegan == "no" else "plant",
        "palm_derived": material.palm_derived, "vegan": material.vegan, "allergens": material.allergens,
        "shelf_life_months": 12, "jobs": material.notes, "cautions": "", "sources": _OWN, "audit_note": "",
        "acids_percent": (_UNKNOWN,) * len(ACIDS), "other_percent": 100.0,
    } | result  # fmt: skip
    return Oil(**values)


def _oil_of(material: OwnMaterial, oils: Catalogue) -> Oil:
    content = material.content
    if isinstance(content, BySap):
        return _plain(
            material, solid=content.solid_at_20_c, sap_koh_mg_per_g=_certified(content.sap_koh_mg_per_g or 0.0),
            known_profile_percent=0.0,
        )  # fmt: skip
    if isinstance(content, ByProfile):
        profile = _full_profile(content.acids_percent)
        sap = content.sap_koh_mg_per_g
        if sap is None:
            sap = sap_of_triglyceride_koh_mg_per_g(profile, content.unsaponifiable_percent)
        return _plain(
            material, solid=content.solid_at_20_c, sap_koh_mg_per_g=_certified(sap),
            iodine_value=_exact(iodine_value_of(profile)),
            unsaponifiable_percent=_exact(content.unsaponifiable_percent),
            acids_percent=tuple(_exact(percent) for percent in profile), other_percent=100 - sum(profile),
        )  # fmt: skip
    if isinstance(content, Certificate):
        return _certified_oil(material, content, oils[content.of])
    return _mixture(material, content, oils)


def _certified_oil(material: OwnMaterial, content: Certificate, typical: Oil) -> Oil:
    changes: dict[str, Any] = {
        "id": material.id, "name": material.name, "sources": (*typical.sources, *_OWN),
        "allergens": "; ".join(filter(None, (typical.allergens, material.allergens))),
    }  # fmt: skip
    if content.sap_koh_mg_per_g is not None:
        changes["sap_koh_mg_per_g"] = _certified(content.sap_koh_mg_per_g)
    if content.iodine_value is not None:
        changes["iodine_value"] = _exact(content.iodine_value)
    if content.acids_percent is not None:
        profile = _full_profile(content.acids_percent)
        changes["acids_percent"] = tuple(_exact(percent) for percent in profile)
        changes["other_percent"] = 100 - sum(profile)
    return Oil(**({name: getattr(typical, name) for name in Oil.model_fields} | changes))


def _mixture(material: OwnMaterial, content: Recipe, oils: Catalogue) -> Oil:
    shares = [(oils[component.oil], (component.share_percent or 0.0) / 100) for component in content.components]

    def mean(quantity: str) -> Range:
        ranges = [(getattr(oil, quantity), share) for oil, share in shares]
        return Range(**{end: sum(getattr(one, end) * share for one, share in ranges) for end in Range.model_fields})

    flat: dict[str, float] = {}
    for oil, share in shares:
        for component in oil.components or (MixtureComponent(oil=oil.id, share_percent=100.0),):
            flat[component.oil] = flat.get(component.oil, 0.0) + component.share_percent * share
    profiles = [(oil.profile, share) for oil, share in shares]
    acids = [sum(profile[i] * share for profile, share in profiles) for i in range(len(ACIDS))]
    solid = sum(share for oil, share in shares if oil.is_hard) > sum(share for oil, share in shares if not oil.is_hard)
    groups = sorted({word for oil, _ in shares for word in oil.allergens.split("; ") if word})
    return _plain(
        material, solid=solid,
        sap_koh_mg_per_g=mean("sap_koh_mg_per_g"), iodine_value=mean("iodine_value"),
        unsaponifiable_percent=mean("unsaponifiable_percent"),
        melting_c=_exact(max(oil.melting_c.typical for oil, _ in shares)),
        density_g_per_ml=sum(oil.density_g_per_ml * share for oil, share in shares) + 0.86 * content.filler_percent / 100,
        origin=plain(text("own.mixture", oils=", ".join(oil.name for oil, _ in shares))),
        origin_kind="animal" if any(oil.origin_kind == "animal" for oil, _ in shares) else "plant",
        palm_derived=_worst([oil.palm_derived for oil, _ in shares], ("yes", "maybe", "no")),
        vegan=_worst([oil.vegan for oil, _ in shares], ("no", "maybe", "yes")),
        allergens="; ".join(filter(None, (*groups, material.allergens))),
        shelf_life_months=min(oil.shelf_life_months for oil, _ in shares),
        acids_percent=tuple(_exact(percent) for percent in acids), other_percent=100 - sum(acids),
        components=tuple(MixtureComponent(oil=oil_id, share_percent=share) for oil_id, share in flat.items()),
        known_profile_percent=100 - sum((100 - oil.known_profile_percent) * share for oil, share in shares),
    )  # fmt: skip


def _worst(values: Sequence[str], order: Sequence[str]) -> str:
    return min(values, key=order.index)
