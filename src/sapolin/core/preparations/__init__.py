"""What is prepared beside batches of bars and paste: paste diluted, soap rebatched, lye and oils mixed ahead."""

from sapolin.core.preparations.dilution import DilutedBatch, PasteOnHand
from sapolin.core.preparations.mixing import PasteMixAnswer, best_mix
from sapolin.core.preparations.plan import DilutionPlan, MasterBlendPlan, MasterLyePlan, Preparation, RebatchPlan
from sapolin.core.preparations.prepared import PreparedPreparation, prepare_preparation
from sapolin.core.preparations.preservatives import Preservative, preservatives
from sapolin.core.preparations.starting import PreparationStart, preparation_starts
from sapolin.core.preparations.thickness import SaltCurve, SaltStep, SaltTest, salt_curve, salt_test

__all__ = [
    "DilutedBatch",
    "DilutionPlan",
    "MasterBlendPlan",
    "MasterLyePlan",
    "PasteMixAnswer",
    "PasteOnHand",
    "Preparation",
    "PreparationStart",
    "PreparedPreparation",
    "Preservative",
    "RebatchPlan",
    "SaltCurve",
    "SaltStep",
    "SaltTest",
    "best_mix",
    "preparation_starts",
    "prepare_preparation",
    "preservatives",
    "salt_curve",
    "salt_test",
]
