"""The structure that the page about the architecture speaks of: no circle of modules, not even for the sake of types."""

from __future__ import annotations

from graphlib import CycleError, TopologicalSorter

import grimp
import pytest

from scripts.mutants import FORMULAS, formulas


def test_no_modules_import_each_other_in_a_circle():
    """Names the circle."""
    graph = grimp.build_graph("hearthline", exclude_type_checking_imports=False)
    inside = {one for one in graph.modules if one.startswith("hearthline")}
    order = {one: graph.find_modules_directly_imported_by(one) & inside for one in inside}
    try:
        TopologicalSorter(order).prepare()
    except CycleError as error:
        pytest.fail(" -> ".join(error.args[1]))


def test_the_deliberate_errors_are_in_files_that_are_there():
    """Each piece of the list is found where it is said to stand."""
    assert len(list(formulas())) == len(FORMULAS)
