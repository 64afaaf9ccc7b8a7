"""Draw the demo's typefaces: python tools/draw_penyu.py [FOLDER]"""

import sys
from pathlib import Path

from penyu.assemble import all_fonts
from penyu.signals import make_signals

HERE = Path(__file__).resolve().parent
DEFAULT = HERE.parent / "src" / "aksara" / "demo" / "fonts"


def main(folder: Path) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    for name, data in (all_fonts() | {"PenyuSignals-Regular.ttf": make_signals()}).items():
        (folder / name).write_bytes(data)
        print(f"{name}: {len(data):,} bytes")


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else DEFAULT)
