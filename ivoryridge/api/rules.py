"""Who may use an address. Every operation carries one of these rules; a test walks all addresses and asks for it."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from django.http import HttpRequest
from django.utils.functional import SimpleLazyObject
from ninja.security import SessionAuth

from ivoryridge.core.wording import speak
from ivoryridge.design.models import Membership, Road
from ivoryridge.design.objects import KINDS
from ivoryridge.design.refusals import BadValue, NotAllowed, NotThere

__all__ = ["MemberRule", "SignedIn", "editor", "owner", "owner_of_deleted", "road_of", "signed_in", "viewer"]

_RANK = {role: i for i, role in enumerate(Membership.ROLES)}
# the part of an address that names a row -> the row
_NAMED: dict[str, Any] = {k.address: k.model for k in KINDS if k.address and k.name != "project"}


class SignedIn(SessionAuth):
    """Anybody who has signed in."""

    def authenticate(self, request: HttpRequest, key: str | None) -> Any:
        return request.user if request.user.is_authenticated else None


class MemberRule(SignedIn):
    """A member of the project that the address names, with at least this role. Others learn nothing of the project."""

    def __init__(self, role: str, *, deleted: bool = False) -> None:
        """``deleted``: also of a project that was deleted, to take it back."""
        super().__init__(csrf=True)
        self.role, self.deleted = role, deleted

    def authenticate(self, request: HttpRequest, key: str | None) -> Any:
        user = super().authenticate(request, key)
        if user is None:
            return None
        membership = _membership_of(request, user, self.deleted)
        if _RANK[membership.role] < _RANK[self.role]:
            raise NotAllowed(
                "role-too-low", f"Your role here is {membership.role}; this needs {self.role}. Ask an owner of the project."
            )
        speak(membership.project.speaks)
        request.project, request.role = membership.project, membership.role  # type: ignore[attr-defined]
        return user


def _membership_of(request: HttpRequest, user: Any, deleted: bool) -> Membership:
    """The person's membership in the project that the address names, in one query.

    A row that is named goes into ``request.row``, read when it is first looked at: a trial often needs none.
    Whoever is no member, and whoever names what is not there, is told the same.
    """
    named = request.resolver_match.kwargs if request.resolver_match else {}
    memberships = Membership.present.filter(user=user).select_related("project")
    if not deleted:
        memberships = memberships.filter(project__removed=False)
    if "project_id" in named:
        found = memberships.filter(project_id=named["project_id"]).first()
    else:
        name, model = next((n, m) for n, m in _NAMED.items() if n in named)
        own = model.present.filter(pk=named[name])
        found = memberships.filter(project_id=own.values("project_id")[:1]).first()
        if found is not None:
            request.row = SimpleLazyObject(lambda: _read_row(own, found))  # type: ignore[attr-defined]
    if found is None:
        raise _not_there()
    return found


def _read_row(own: QuerySet[Any], found: Membership) -> Any:
    row = own.first()
    if row is None:  # removed since its project was looked up
        raise _not_there()
    row.project = found.project
    return row


def _not_there() -> NotThere:
    return NotThere("no-such-project", "There is no such project, or you are not a member of it. Ask its owner to add you.")


def road_of(project: Any, pk: int) -> Road:
    """A road that what is sent names beside the one in the address."""
    road = Road.present.filter(project=project, pk=pk).select_related("project", "surface", "template").first()
    if road is None:
        raise BadValue("no-such-road", "There is no such road in this project.", field="road")
    return road


signed_in = SignedIn(csrf=True)
viewer, editor, owner = MemberRule("viewer"), MemberRule("editor"), MemberRule("owner")
owner_of_deleted = MemberRule("owner", deleted=True)
