"""`python -m hearthline` is the command `hearthline`."""

import sys

from hearthline.cli import main

sys.exit(main())
