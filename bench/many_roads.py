"""A project of thirty roads, each tied to another, laid into the demo's data for the browser to open."""

from __future__ import annotations


def main() -> None:
    import django

    django.setup()
    from django.contrib.auth.models import User

    from .network import thirty_roads

    thirty_roads(User.objects.get(username="designer"))


if __name__ == "__main__":
    main()
