"""How much of a class of oils is usual in what is made for a purpose."""

from sapolin.core.formula.purposes import Purpose, PurposeShare
from sapolin.core.materials.catalogue import Oil
from sapolin.core.materials.usual_shares import ShareClass, class_of

__all__ = ["most_share_percent", "usual_of"]


def usual_of(one: ShareClass, purpose: Purpose) -> PurposeShare:
    """Usual and most share of a class in what is made for `purpose`."""
    return purpose.shares.get(one.id) or PurposeShare(usual=one.usual, most=one.most)


def most_share_percent(oil: Oil, purpose: Purpose) -> float:
    """The most of a blend that `oil` makes in what is made for `purpose`, % (rules of thumb)."""
    return usual_of(class_of(oil), purpose).most
