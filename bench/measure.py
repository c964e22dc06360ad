"""Timing: the middle of several runs, so that one disturbed run neither helps nor harms."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from typing import Any

import numpy as np

__all__ = ["Figures", "machine_milliseconds", "middle_seconds"]


class Figures:
    """Prints each figure as it comes, with its goal."""

    def __init__(self, goals: dict[str, float], least: dict[str, float]) -> None:
        self.goals = goals  # at most
        self.least = least
        self.rows: list[dict[str, Any]] = []

    def add(self, name: str, value: float, unit: str) -> None:
        goal = self.goals.get(name, self.least.get(name))
        kept = None if goal is None else value >= goal if name in self.least else value <= goal
        word = "at least" if name in self.least else "at most"
        self.rows.append({"name": name, "value": value, "unit": unit, "goal": goal, "kept": kept})
        print(
            f"{name}: {value:.4g} {unit}" + ("" if goal is None else f"   ({word} {goal:g}{'' if kept else ', MISSED'})"),
            flush=True,
        )


def machine_milliseconds() -> float:
    """A fixed piece of plain Python and numpy: how quick the machine is just now. Read figures in ms beside it."""
    values = np.random.default_rng(0).random(200_000)

    def work() -> None:
        total = 0
        for i in range(200_000):
            total += i * i % 7
        np.sort(values)

    return 1000 * middle_seconds(work, 9)


def middle_seconds(run: Callable[[], Any], times: int = 3) -> float:
    taken = []
    for _ in range(times):
        began = time.perf_counter()
        run()
        taken.append(time.perf_counter() - began)
    return statistics.median(taken)
