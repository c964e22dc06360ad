"""Earthwork: areas of sections and volumes between them."""
