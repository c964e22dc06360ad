"""Materials of areas, with the colour that each is drawn in. Said once, here; what a person makes up is drawn like stone."""

from __future__ import annotations

__all__ = ["MATERIALS", "OTHER", "colour_of"]

MATERIALS: dict[str, str] = {
    "surfacing": "#3a4650",
    "binder": "#5a666e",
    "base": "#7d868c",
    "subbase": "#b9b4a6",
    "footway surfacing": "#8f8a80",
    "regulating": "#93674a",
    "concrete": "#aeb4b6",
    "filter stone": "#9aa58a",
    "topsoil": "#7a6a4c",
    "backfill": "#c4b48e",
    "sand": "#d8c690",
    "stone": "#a39c8e",
}
OTHER = "#c9c2b2"


def colour_of(material: str) -> str:
    return MATERIALS.get(material, OTHER)
