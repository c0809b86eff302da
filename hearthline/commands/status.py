"""How a command ends: its exit status, and what is wrong with its input on standard error."""

from __future__ import annotations

import os
import sys
from collections.abc import Callable

from hearthline.core.errors import CircuitError, ExpressionError, FileError, HearthlineError, QuantityError

DONE, NOT_CONVERGED, WRONG_INPUT, FAILS = 0, 1, 2, 3


def told(work: Callable[[], int]) -> int:
    """The exit status of `work`; what is wrong with its input goes to standard error."""
    from hearthline.stopping import StoppedError

    try:
        return work()
    except BrokenPipeError:  # whoever reads has read enough; nothing is to be said to a closed pipe at exit either
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return DONE
    except (FileError, CircuitError, QuantityError, ExpressionError) as error:
        print(placed(error), file=sys.stderr)
        return WRONG_INPUT
    except StoppedError as error:
        print(error, file=sys.stderr)
        return 128 + error.signal
    except MemoryError:
        print("there is not enough memory for it; take fewer points, lanes or parts", file=sys.stderr)
        return NOT_CONVERGED


def placed(error: HearthlineError) -> str:
    """With the line of the deck, where it is known."""
    if isinstance(error, CircuitError) and error.file and error.line:
        return f"{error.file}:{error.line}: {error}"
    return str(error)
