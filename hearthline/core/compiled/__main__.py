"""Makes machine code: of the functions that are named (`module:name`), or else of what its input asks for, a line each: such a
function, `text NAME` (a device of the library) or `file PATH` (device texts). Says each when it is kept."""

from __future__ import annotations

import sys

for line in sys.argv[1:] or sys.stdin:
    kind, _, rest = line.strip().partition(" ")
    if not rest:
        from hearthline.core.compiled.making import make

        make(kind)
    else:
        from hearthline.core.compiled.texts import make_text

        make_text(kind, rest)
    print(line.strip(), flush=True)
