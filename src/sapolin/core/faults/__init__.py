"""What went wrong, and why: causes ranked from what is seen, from the record of the batch, and from what the maker answers."""

from sapolin.core.faults.facts import EVIDENCE, BatchRecordFacts, Evidence, evidence_of
from sapolin.core.faults.finder import FaultRanking, LikelyCause, Question, Reason, Symptom, rank, symptoms

__all__ = [
    "EVIDENCE",
    "BatchRecordFacts",
    "Evidence",
    "FaultRanking",
    "LikelyCause",
    "Question",
    "Reason",
    "Symptom",
    "evidence_of",
    "rank",
    "symptoms",
]
