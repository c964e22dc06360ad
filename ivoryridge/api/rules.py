"""Who may use an address. Every operation carries one of these rules; a test walks all addresses and asks for it."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja.security import SessionAuth

from ivoryridge.design.models import Membership, Project, Road, SheetSet, Surface, Template
from ivoryridge.design.refusals import NotAllowed, NotThere

__all__ = ["MemberRule", "SignedIn", "editor", "owner", "signed_in", "viewer"]

_RANK = {role: i for i, role in enumerate(Membership.ROLES)}
# the part of an address that names a row -> the row, and the way from it to the project
_NAMED: dict[str, Any] = {"road_id": Road, "surface_id": Surface, "template_id": Template, "sheet_set_id": SheetSet}


class SignedIn(SessionAuth):
    """Anybody who has signed in."""

    def authenticate(self, request: HttpRequest, key: str | None) -> Any:
        return request.user if request.user.is_authenticated else None


class MemberRule(SignedIn):
    """A member of the project that the address names, with at least this role. Others learn nothing of the project."""

    def __init__(self, role: str) -> None:
        super().__init__(csrf=True)
        self.role = role

    def authenticate(self, request: HttpRequest, key: str | None) -> Any:
        user = super().authenticate(request, key)
        if user is None:
            return None
        project = _project_of(request, self.role)
        membership = Membership.objects.filter(project=project, user=user).first()
        if membership is None:
            raise NotThere(
                "no-such-project", "There is no such project, or you are not a member of it. Ask its owner to add you."
            )
        if _RANK[membership.role] < _RANK[self.role]:
            raise NotAllowed(
                "role-too-low", f"Your role here is {membership.role}; this needs {self.role}. Ask an owner of the project."
            )
        request.project, request.role = project, membership.role  # type: ignore[attr-defined]
        return user


def _project_of(request: HttpRequest, role: str) -> Project:
    named = request.resolver_match.kwargs if request.resolver_match else {}
    missing = NotThere("no-such-project", "There is no such project, or you are not a member of it. Ask its owner to add you.")
    if "project_id" in named:
        project = Project.present.filter(pk=named["project_id"]).first()
        if project is None:
            raise missing
        return project
    for name, model in _NAMED.items():
        if name in named:
            row = model.present.select_related("project").filter(pk=named[name], project__removed=False).first()
            if row is None:
                raise missing
            request.row = row  # type: ignore[attr-defined]
            return row.project
    raise AssertionError(f"the address names no project for the rule {role}")


signed_in = SignedIn(csrf=True)
viewer, editor, owner = MemberRule("viewer"), MemberRule("editor"), MemberRule("owner")
