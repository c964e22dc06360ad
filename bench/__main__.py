"""Run all benchmarks; one line a figure as ``name: value unit``."""

from __future__ import annotations

import argparse
import json
import os
from pathlib import Path

from .measure import Figures, machine_milliseconds

GOALS = {
    "tin_1m_vs_qhull": 0.35, "tin_1m_peak_memory": 1.5, "section_cuts_1000": 50.0, "corridor_rebuild": 300.0,
    "corridor_growth_5_to_10_km": 2.2, "corridor_rebuild_varied": 200.0, "corridor_varied_growth_5_to_10_km": 2.2, "local_edit": 0.2,
    "trial_server_10km_1m": 150.0, "trial_pi_p95": 100.0, "trial_pvi_p95": 100.0,
    "trial_pi_whole_p95": 100.0, "trial_pvi_whole_p95": 100.0, "first_screen": 1.5, "initial_scripts_gzipped": 260.0,
    "csv_1m_vs_pandas": 1.5, "contours_1m": 1000.0, "retriangulate_100k_one_point": 200.0, "laz_5m_peak": 4.0,
    "first_picture_1m_triangles": 3.0, "long_10k_ground_script": 33.3, "evaluate_1m_chainages": 500.0, "project_100k_points": 1000.0,
    "best_fit_2000_points": 2000.0,
    "best_fit_2000_points_worst_radius": 1.0, "overlap_check_1m_faces": 3.0, "preview_10mb": 1.0,
    "assemble_30_roads_ms": 60.0, "assemble_30_roads_queries": 12.0, "trial_dependent_p95": 200.0, "trial_follow_p95": 300.0,
    "load_20_design_p95": 300.0, "load_20_section_p95": 300.0, "load_20_trial_p95": 400.0,
    "load_20_trial_shape_p95": 400.0, "load_20_act_p95": 500.0,
    "load_20_sheet_p95": 1500.0, "load_20_errors": 0.0, "load_20_lost": 0.0, "load_20_sign_ins_s": 5.0,
    "trial_pi_30_roads_p95_machines": 3.0, "open_30_roads_s": 2.0,
    "trial_pi_p95_machines": 3.0, "trial_pvi_p95_machines": 3.0, "save_beside_edit_p95": 300.0,
    "memory_50_edits_1m": 1.5, "exact_100k_100k": 3.0, "finished_ground_demo": 1.5,
    "trial_pvi_junctions_p95": 100.0,
    "finished_ground_demo_changed": 250.0, "finished_ground_1m": 6.0, "finished_ground_1m_changed": 0.6, "finished_ground_1m_memory": 2.0,
    "trial_junction_p95": 100.0, "trial_junctions_server_p95": 100.0, "trial_finished_near_server_p95": 150.0,
    "solve_10km_2m": 150.0, "solve_growth_sections": 2.2, "solve_growth_nodes": 2.2, "edit_template_active": 150.0, 
    "edit_template_active_machines": 6.8,
    "edit_template_all": 2.0, "bench_drag_p95": 60.0, "bench_drag_p95_machines": 3.0,
}  # fmt: skip
LEAST = {"pan_300k_fps": 40.0, "fit_lines_right": 0.95}


def main() -> None:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "ivoryridge.config.settings")
    parser = argparse.ArgumentParser(prog="./ivory bench")
    parser.add_argument("--json", type=Path)
    parser.add_argument("--only", choices=["core", "network", "browser", "load"])
    arguments = parser.parse_args()
    figures = Figures(GOALS, LEAST)
    figures.add("machine", machine_milliseconds(), "ms for a fixed piece of work")
    if arguments.only in (None, "core"):
        from . import core

        core.run(figures)
    if arguments.only in (None, "network"):
        from . import network

        network.run(figures)
    if arguments.only in (None, "browser"):
        from . import browser

        browser.run(figures)
    if arguments.only in (None, "load"):
        from . import load

        load.run(figures)
    if arguments.json:
        arguments.json.write_text(json.dumps(figures.rows, indent=2) + "\n")


if __name__ == "__main__":
    main()
