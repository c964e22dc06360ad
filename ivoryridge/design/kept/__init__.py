"""Keyed results: kinds with their needs, memory, the second data base."""
