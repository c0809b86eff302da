"""Names of benches, and which bench is shown when one goes."""

from __future__ import annotations

import re

from hearthline.core.bench.bench import Bench
from hearthline.core.formats.project_folder import Project


def problem_of_name(bench: Bench, project: Project) -> str:
    """Why a bench may not come into the project under its name; "" where it may."""
    if not re.fullmatch(r"[\w\- ]+", bench.name):
        return f"'{bench.name}' is no name for a bench: letters, digits, blanks, - and _"
    if bench.key in project.benches:
        return f"{bench.subject} has a bench '{bench.name}' already; choose another name"
    return ""


def next_bench(bench: Bench, project: Project) -> str:
    """The key of the bench to be shown when this one is deleted, "" where its cell is to be shown by itself."""
    others = [key for key in project.benches if key != bench.key]
    same = [key for key in others if project.benches[key].subject == bench.subject]
    if same:
        return same[0]
    return "" if bench.cell else next(iter(others), "")
