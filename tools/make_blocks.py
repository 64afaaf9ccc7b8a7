"""Make src/aksara/data/blocks.py from the Unicode Character Database (Debian package unicode-data).

python tools/make_blocks.py /usr/share/unicode/Blocks.txt > src/aksara/data/blocks.py
"""

import re
import sys
from pathlib import Path

HEADER = '''"""Unicode blocks: first and last code point, and name.

Made by tools/make_blocks.py from {source}, Unicode Character Database
(Unicode License v3). Do not edit.
"""

BLOCKS: tuple[tuple[int, int, str], ...] = (
'''


def main(path: str) -> None:
    lines = Path(path).read_text().splitlines()
    print(HEADER.format(source=lines[0].lstrip("# ")), end="")
    for line in lines:
        if match := re.fullmatch(r"([0-9A-F]+)\.\.([0-9A-F]+); (.+)", line.strip()):
            first, last, name = match.groups()
            print(f'    (0x{first}, 0x{last}, "{name}"),')
    print(")")


if __name__ == "__main__":
    main(sys.argv[1])
