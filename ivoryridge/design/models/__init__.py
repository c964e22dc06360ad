"""Rows: what persons decided. One file per noun."""

from .derived_result import DerivedResult
from .exchange import ExchangeDocument
from .issue import Issue, IssuedFile
from .job import Job
from .junction import Junction
from .ledger_entry import LedgerEntry
from .project import Membership, Project
from .received import ReceivedFile, SurveySet
from .road import FIRST_PROFILE, Road, RoadPI, RoadPVI, Variation
from .row import Row
from .section import Part, Structure, Template
from .sheet_set import SheetSet
from .surface import Surface
from .upload import Upload

__all__ = [
    "FIRST_PROFILE",
    "DerivedResult",
    "ExchangeDocument",
    "Issue",
    "IssuedFile",
    "Job",
    "Junction",
    "LedgerEntry",
    "Membership",
    "Part",
    "Project",
    "ReceivedFile",
    "Road",
    "RoadPI",
    "RoadPVI",
    "Row",
    "SheetSet",
    "Structure",
    "Surface",
    "SurveySet",
    "Template",
    "Upload",
    "Variation",
]  # fmt: skip
