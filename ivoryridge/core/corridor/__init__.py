"""Corridors: templates along a road, over the ground."""
