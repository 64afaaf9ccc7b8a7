"""`python -m aksara` is the same as `aksara`."""

import os
import sys

if sys.path and sys.path[0] in ("", os.getcwd()):  # noqa: PTH109  # nothing may be imported yet
    # Python has put the current folder there; nothing in it may be imported.
    del sys.path[0]

from aksara.starting import main

main()
