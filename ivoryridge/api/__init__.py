"""Addresses of the program: routers that read, act and answer. Nothing here computes."""
