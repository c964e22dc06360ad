"""Give a sheet set out: its files are kept unchanged on the Issued shelf."""

from __future__ import annotations

import hashlib
import io
import zipfile

from django.contrib.auth.models import User

from ivoryridge.core.errors import InputError
from ivoryridge.core.sheets.render_dxf import render_dxf
from ivoryridge.core.sheets.render_pdf import render_pdf
from ivoryridge.core.text import file_name

from ..ledger import Act
from ..models import Issue, IssuedFile, SheetSet
from ..refusals import BadValue
from ..results.sheets import plan_sheets, section_sheets, sheets_record
from .standing import act

__all__ = ["issue_sheets"]


def issue_sheets(sheets: SheetSet, user: User, *, revision: int, remark: str = "") -> tuple[Act, Issue, list[str]]:
    """Keep plan and profile, and cross sections, as PDF, and every sheet as DXF, under the set's revision mark.

    The same mark is given once: when the drawings have changed since, the next mark is asked for.
    """
    mark = sheets.revision_mark.strip()
    if not mark:
        raise BadValue(
            "mark-missing", "An issue needs a revision mark, such as P1. Type one beside Revision.", field="revision_mark"
        )
    record = sheets_record(sheets)
    before = Issue.present.filter(sheet_set=sheets, revision_mark=mark).first()
    if before is not None:
        changed = before.record["sheets"] != record["sheets"]
        raise BadValue(
            "issued-already",
            f"Revision {mark} of {sheets.name} was issued on {before.issued_at:%Y-%m-%d}"
            + (
                ", and the drawings have changed since. Give them the next revision mark."
                if changed
                else " with these very drawings."
            ),
            field="revision_mark",
        )
    plans = plan_sheets(sheets)
    try:
        sections = section_sheets(sheets)
    except InputError:  # a road without a corridor has plans to give out all the same
        sections = []
    road = file_name(sheets.road.name)
    files = [(f"{road} {mark} plan and profile.pdf", "application/pdf", render_pdf(plans, title=f"{road}, plan and profile"))]
    if sections:
        files.append(
            (f"{road} {mark} cross sections.pdf", "application/pdf", render_pdf(sections, title=f"{road}, cross sections"))
        )
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as out:
        for drawing in [*plans, *sections]:
            out.writestr(f"{file_name(drawing.title)}.dxf", render_dxf(drawing))
    files.append((f"{road} {mark} DXF.zip", "application/zip", packed.getvalue()))
    with act(sheets.project, user, f"Issue {sheets.name}, revision {mark}") as doing:
        doing.change(sheets, revision=revision)  # nothing but a look whether somebody has changed it meanwhile
        issue = doing.create(
            Issue(
                project=sheets.project, sheet_set=sheets, name=f"{sheets.name}, revision {mark}", revision_mark=mark,
                remark=remark.strip()[:300], record=record, issued_by=user,
            )
        )  # fmt: skip
        IssuedFile.objects.bulk_create(
            IssuedFile(issue=issue, name=n, content_type=t, content=c, size=len(c), sha256=hashlib.sha256(c).hexdigest())
            for n, t, c in files
        )
    count = len(plans) + len(sections)
    return (
        doing,
        issue,
        [f"{count} sheets stand on the Issued shelf as {issue.name}. They stay as they are when the model changes."],
    )
