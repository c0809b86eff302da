"""All kinds of analyses; a new one is a file beside this one, and a line here."""

from __future__ import annotations

from hearthline.core.analyses.ac import Ac
from hearthline.core.analyses.balance import BalanceAnalysis
from hearthline.core.analyses.conversion import ConversionAnalysis
from hearthline.core.analyses.kind import AnalysisKind
from hearthline.core.analyses.look import Look
from hearthline.core.analyses.modes import ModesAnalysis
from hearthline.core.analyses.noise import Noise
from hearthline.core.analyses.oscillation import OscillationAnalysis
from hearthline.core.analyses.phase_noise import PhaseNoiseAnalysis
from hearthline.core.analyses.point import Point
from hearthline.core.analyses.scattering import Scattering
from hearthline.core.analyses.stability import Stability
from hearthline.core.analyses.sweep import Sweep
from hearthline.core.analyses.transient import Transient
from hearthline.core.registry import registry

ANALYSES: dict[str, AnalysisKind] = registry(
    "analysis",
    [
        Point(),
        Sweep(),
        Transient(),
        Ac(),
        Noise(),
        Scattering(),
        Look(),
        Stability(),
        BalanceAnalysis(),
        OscillationAnalysis(),
        PhaseNoiseAnalysis(),
        ConversionAnalysis(),
        ModesAnalysis(),
    ],
)
"""By the word that their line begins with."""
