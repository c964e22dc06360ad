"""Acts on who may do what in a project."""

from __future__ import annotations

from django.contrib.auth.models import User

from ..ledger import Act, record
from ..models import Membership, Project
from ..refusals import BadValue

__all__ = ["remove_member", "set_member"]


def set_member(project: Project, user: User, *, username: str, role: str) -> Act:
    """Add a member, or change a member's role; the last owner stays one."""
    person = _person(username)
    with record(project, user, f"Make {person.username} {role}") as doing:
        there = Membership.objects.filter(project=project, user=person).first()
        if there is None:
            doing.create(Membership(project=project, user=person, role=role))
        else:
            doing.change(there, role=role, removed=False)
        keep_an_owner(project)
    return doing


def remove_member(project: Project, user: User, *, username: str) -> Act | None:
    """Take a member out of the project; nothing where the person is none."""
    there = Membership.present.filter(project=project, user__username=username).first()
    if there is None:
        return None
    with record(project, user, f"Take {username} out of the project") as doing:
        doing.remove(there)
        keep_an_owner(project)
    return doing


def _person(username: str) -> User:
    person = User.objects.filter(username=username).first()
    if person is None:
        raise BadValue(
            "no-such-person", f"There is no account '{username}'. Check the name, or have it made first.", field="username"
        )
    return person


def keep_an_owner(project: Project) -> None:
    """Looked at inside the transaction, so that two owners who let go of each other at once do not both succeed."""
    if not Membership.present.filter(project=project, role="owner").exists():
        raise BadValue("last-owner", "A project needs an owner. Make somebody else owner first.")
