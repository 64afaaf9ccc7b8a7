"""Templates as Jinja2 compiles them, kept where Python keeps the compiled modules of this room.

Compiling takes two thirds of the time of a proof.
"""

from __future__ import annotations

import sys
from contextlib import suppress
from importlib.util import cache_from_source
from pathlib import Path

from jinja2 import BytecodeCache, Environment, PackageLoader, StrictUndefined
from jinja2.bccache import Bucket

from aksara.atomic import written_whole
from aksara.code_stamp import installation_stamp


def page_templates(package: str) -> Environment:
    """The templates of a package, in which everything that is put into HTML is escaped."""
    return Environment(
        loader=PackageLoader(package),
        bytecode_cache=CompiledTemplates(),
        autoescape=lambda name: name is None or name.endswith(".html"),
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )


class CompiledTemplates(BytecodeCache):
    """A file for each template, which holds for one state of the code. What cannot be kept is compiled again."""

    def __init__(self) -> None:
        self._stamp = installation_stamp().encode()

    def load_bytecode(self, bucket: Bucket) -> None:
        with suppress(OSError):
            data = _path_of(bucket).read_bytes()
            if data.startswith(self._stamp):
                bucket.bytecode_from_string(data[len(self._stamp) :])

    def dump_bytecode(self, bucket: Bucket) -> None:
        if not sys.dont_write_bytecode:
            with suppress(OSError), written_whole(_path_of(bucket), private=True) as file:
                file.write(self._stamp + bucket.bytecode_to_string())


def _path_of(bucket: Bucket) -> Path:
    return Path(cache_from_source(__file__)).with_name(f"{bucket.key}.template")
