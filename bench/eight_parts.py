"""A template of eight parts a side, laid into the demo's data for the browser to put on the bench."""

from __future__ import annotations

PARTS = ("carriageway_layered", "hard_strip", "kerb", "footway", "cycle_track", "verge", "flat_ditch", "benched_cut")


def main() -> None:
    import django

    django.setup()
    from django.contrib.auth.models import User

    from ivoryridge.design.actions.edit_template import create_template, set_rows
    from ivoryridge.design.models import Project

    designer = User.objects.get(username="designer")
    _, template = create_template(Project.objects.get(), designer, name="Eight parts")
    rows = [{"id": name, "part": name, "values": {}} for name in PARTS]
    set_rows(template, designer, revision=template.revision, left=rows, right=rows)


if __name__ == "__main__":
    main()
