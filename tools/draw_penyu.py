"""Draw the demo's typefaces: python tools/draw_penyu.py [FOLDER]"""

import sys
from pathlib import Path

from penyu.assemble import all_fonts, make_candidates
from penyu.signals import make_signals

HERE = Path(__file__).resolve().parent
DEFAULT = HERE.parent / "src" / "aksara" / "demo"


def main(folder: Path) -> None:
    """The site's typefaces go into `fonts`, those to choose from into `candidates`."""
    fonts = all_fonts() | {"PenyuSignals-Regular.ttf": make_signals()}
    for place, made in (("fonts", fonts), ("candidates", make_candidates())):
        (folder / place).mkdir(parents=True, exist_ok=True)
        for name, data in made.items():
            (folder / place / name).write_bytes(data)
            print(f"{place}/{name}: {len(data):,} bytes")


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else DEFAULT)
