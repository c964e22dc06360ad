"""Ivory Ridge: a workbench for road design."""
