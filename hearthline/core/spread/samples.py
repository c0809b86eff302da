"""What is kept of a run over samples: every variable and every reading of each, so that limits, parts and tolerances can be
judged afterwards without simulating again."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from hearthline.core.data.dataset import Dataset
from hearthline.core.spread.variables import Variable


@dataclass(frozen=True)
class SampleSet:
    """`normal` (samples, variables) are standard normal numbers that go together as the variables do; `values` of each reading
    are (samples, rows), a row for each condition and each value of what its analysis is made within; `failures` say why
    samples did not converge somewhere. `curves` are those that are watched, of the first samples, as far as there was room:
    in each dataset a sample's lanes stand together. `basis` says what it was made of."""

    variables: tuple[Variable, ...]
    normal: np.ndarray
    rows: Mapping[str, np.ndarray]
    values: Mapping[str, np.ndarray]
    units: Mapping[str, str]
    conditions: int = 1
    failures: Mapping[int, str] = field(default_factory=dict)
    curves: Mapping[str, Dataset] = field(default_factory=dict)
    basis: str = ""
    seconds: float = 0.0
    asked: int = 0
    seed: int = 1
    way: str = "random"

    @property
    def count(self) -> int:
        """Of samples."""
        return len(self.normal)

    @property
    def names(self) -> tuple[str, ...]:
        """Of the variables."""
        return tuple(one.name for one in self.variables)

    def numbers(self, name: str) -> np.ndarray:
        """What a person reads of a variable, (samples,). Raises KeyError."""
        k = self.names.index(name) if name in self.names else -1
        if k < 0:
            raise KeyError(name)
        return self.variables[k].values(self.normal[:, k])

    def reading(self, name: str, row: int | None = None) -> np.ndarray:
        """A reading of each sample (samples,): at a row, or at the one that stands for all where there is one."""
        table = self.values[name]
        return table[:, 0 if row is None else row]

    @property
    def curved(self) -> int:
        """Samples whose curves are kept, the first ones."""
        return max((data.lanes // data.per_condition // self.conditions for data in self.curves.values()), default=0)

    @property
    def parts(self) -> tuple[str, ...]:
        """Those that vary, in the order of their first variable; "" stands for the process."""
        return tuple(dict.fromkeys(one.part for one in self.variables))

    def first(self, count: int) -> SampleSet:
        """The first samples alone."""
        return replace(
            self, normal=self.normal[:count], values={name: table[:count] for name, table in self.values.items()},
            failures={k: text for k, text in self.failures.items() if k < count},
        )  # fmt: skip
