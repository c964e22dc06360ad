"""Terrain: constrained triangulated surfaces, and what can be read from them."""
