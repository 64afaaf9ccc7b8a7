"""`python -m aksara` is the same as `aksara`."""

from aksara.cli import main

main()
