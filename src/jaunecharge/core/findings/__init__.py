"""Findings: a question answered from runs, packs and prices by rules; every sentence stands on figures, ties and what
was not tested are answers, claims are held against what was measured, and the next run worth making is named."""

from .advice import Asker, advice, tier_name
from .blocks import Block, blocks_of
from .claim_rows import ClaimRow, Found
from .draft import Draft, DraftBlock, DraftRow, draft
from .material import Audience, ClaimTyped, Disclosed, Foreign, Got, Material, OutputSeen, PackSeen, WantedRun, tier_of
from .question import FindingQuestion, read_question
from .stopping import PlannedRuns, PlannedTimes, Stopping, planned_times, stopping, stopping_said
from .telling import FindingSentence, Kind, Stated, checked_words, plain_words, renewed

__all__ = [
    "Asker",
    "Audience",
    "Block",
    "ClaimRow",
    "ClaimTyped",
    "Disclosed",
    "Draft",
    "DraftBlock",
    "DraftRow",
    "FindingQuestion",
    "FindingSentence",
    "Foreign",
    "Found",
    "Got",
    "Kind",
    "Material",
    "OutputSeen",
    "PackSeen",
    "PlannedRuns",
    "PlannedTimes",
    "Stated",
    "Stopping",
    "WantedRun",
    "advice",
    "blocks_of",
    "checked_words",
    "draft",
    "plain_words",
    "planned_times",
    "read_question",
    "renewed",
    "stopping",
    "stopping_said",
    "tier_name",
    "tier_of",
]
