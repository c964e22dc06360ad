"""Plane geometry that more than one trade package needs."""
