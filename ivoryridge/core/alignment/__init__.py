"""Horizontal and vertical alignments: elements, stations, levels, best fit."""
