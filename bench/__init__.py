"""Figures of speed and size: ``./ivory bench [--json FILE] [--only core|browser]``; ratios in one run wherever there is a rival."""
