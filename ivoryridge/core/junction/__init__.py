"""Junctions: edges, the returns that join them, and the areas between."""
